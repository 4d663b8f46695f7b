"""`python -m usual_lamp.web.openapi FILE FACTS`: write the API's description, from which the front end gets types,
and the facts of the core."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from usual_lamp.store import Store
from usual_lamp.web.app import create_app
from usual_lamp.web.facts import in_typescript


def description() -> str:
    """The OpenAPI document; no database is needed to write it."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Store("mariadb+mariadbconnector://none@127.0.0.1:1/none", Path(folder)), Path(folder))
        return json.dumps(app.api_doc, indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(description())
    Path(sys.argv[2]).write_text(in_typescript())
