"""The running product, started by `./lamp up` in a home of its own, and a browser to use it with."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from launch.install import BROWSER
from launch.paths import Home
from playwright.sync_api import Browser, Page, expect, sync_playwright

from e2e.running import Product, lamp

# As in a closed network: a plain browser that asks nobody for anything, drawing in software.
CHROMIUM = ["--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking"]
CHROMIUM += ["--disable-component-update", "--disable-sync", "--use-gl=angle", "--use-angle=swiftshader"]
# The page itself is put together without the software that stands in for a graphics card: half the time.
CHROMIUM += ["--enable-unsafe-swiftshader", "--disable-gpu-compositing"]

# Drawn and traced in software: fewer pixels, the same interface.
DRAWN: Any = {"viewport": {"width": 1100, "height": 700}, "device_scale_factor": 0.25}

expect.set_options(timeout=45_000)


@pytest.fixture(scope="session")
def product(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Product]:
    home = Home.on_free_ports(tmp_path_factory.mktemp("home"))
    # Two starts at once, as happens: one waits for the other, and both tell the same.
    with ThreadPoolExecutor(2) as pool:
        starts = list(pool.map(lambda _: lamp(home, "up"), range(2)))
    if any(done.returncode for done in starts):
        lamp(home, "down")
        pytest.fail(f"./lamp up failed:\n{starts[0].stderr}\n{starts[1].stderr}")
    assert all(home.sign_in in done.stdout for done in starts)
    yield Product(home)
    ended = lamp(home, "down")
    assert ended.returncode == 0, ended.stderr


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        started = playwright.chromium.launch(executable_path=f"/usr/bin/{BROWSER}", args=CHROMIUM)
        yield started
        started.close()


@pytest.fixture
def page(request: pytest.FixtureRequest, browser: Browser, product: Product) -> Iterator[Page]:
    """A fresh page; anything it reports as an error fails the test. Tests of a module with a `SCALE` have their own."""
    drawn = DRAWN | {"device_scale_factor": getattr(request.module, "SCALE", DRAWN["device_scale_factor"])}
    context = browser.new_context(**drawn, base_url=product.url, accept_downloads=True)
    context.add_cookies([product.cookie()])
    context.add_init_script("localStorage['usual-lamp-guide'] ??= 'closed'")  # it has a test of its own
    opened = context.new_page()
    errors: list[str] = []
    foreign: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    opened.on("request", lambda r: None if r.url.startswith((product.url, "blob:", "data:")) else foreign.append(r.url))
    yield opened
    context.close()
    assert not errors, errors
    assert not foreign, f"asked for something beyond the product: {foreign}"


@pytest.fixture
def review(product: Product) -> Iterator[str]:
    """A copy of the demo review, removed afterwards."""
    made = product.ask(f"reviews/{product.demo()}/copy", "POST")["id"]
    yield made
    product.ask(f"reviews/{made}", "DELETE")
