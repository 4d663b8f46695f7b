"""Who is let in: requests of this machine's own page, by someone who holds the home's token.

Looked at before a byte of a request's body is read. A browser holds the token in a cookie that scripts cannot read and
that other sites do not get sent along; programs send it as a bearer token (RFC 6750).
"""

from __future__ import annotations

import hmac
import os
from collections.abc import Mapping
from dataclasses import dataclass
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import urlsplit

LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}
OPEN_TO_ALL = {"/sign-in", "/favicon.svg"}
SIGN_IN = "Sign in first: open the address that ./lamp up prints, or run ./lamp up --open."
CONTENT_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        # Components place their pop-ups by style attributes.
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' blob: data:",
        "font-src 'self'",
        "connect-src 'self' blob:",
        "worker-src 'self' blob:",
        "base-uri 'none'",
        "form-action 'none'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}
"""Sent with every answer."""


@dataclass(frozen=True)
class Refusal:
    status: int
    words: str


@dataclass(frozen=True)
class Guard:
    """Lets in who shows the token; anybody on this machine without one, as in tests, when there is none."""

    token: str | None = None

    @staticmethod
    def from_environment() -> Guard:
        """The token from the file that USUAL_LAMP_TOKEN_FILE names. Raises RuntimeError when it is empty."""
        file = os.environ.get("USUAL_LAMP_TOKEN_FILE")
        if not file:
            return Guard()
        token = Path(file).read_text().strip()
        if len(token) < 32:
            raise RuntimeError(f"{file} holds no token: start with ./lamp up")
        return Guard(token)

    def refusal(self, method: str, path: str, headers: Mapping[str, str]) -> Refusal | None:
        """Why a request is not let in, by its head alone; None if it is. Names of `headers` are in lower case."""
        host = headers.get("host", "")
        try:
            local = urlsplit(f"//{host}").hostname in LOCAL_HOSTS
        except ValueError:
            local = False
        if not local:
            return Refusal(403, "This address only answers to the machine it runs on.")
        origin = headers.get("origin")
        if origin and urlsplit(origin).netloc != host:
            return Refusal(403, "Requests from other sites are refused.")
        site = headers.get("sec-fetch-site", "none")
        opens_a_page = method == "GET" and headers.get("sec-fetch-mode") == "navigate" and not path.startswith("/api/")
        if site not in ("same-origin", "none") and not opens_a_page:
            return Refusal(403, "Requests from other sites are refused.")
        if path not in OPEN_TO_ALL and not self.knows(headers, host):
            return Refusal(401, SIGN_IN)
        return None

    def knows(self, headers: Mapping[str, str], host: str) -> bool:
        """Whether the request shows the token."""
        if self.token is None:
            return True
        kind, _, shown = headers.get("authorization", "").partition(" ")
        if kind.lower() == "bearer" and self.is_token(shown.strip()):
            return True
        try:
            cookie = SimpleCookie(headers.get("cookie", "")).get(cookie_name(host))
        except CookieError:
            return False
        return cookie is not None and self.is_token(cookie.value)

    def is_token(self, shown: str) -> bool:
        """Compared in a time that tells nothing of how much of it is right."""
        return self.token is not None and hmac.compare_digest(shown.encode(), self.token.encode())


def cookie_name(host: str) -> str:
    """One for each port: cookies do not tell ports apart."""
    return f"usual-lamp-{host.rpartition(':')[2] if ':' in host else 'web'}"
