"""Public test files of the npm package occt-import-js, pinned in tests/data/package.json, not kept here."""

from __future__ import annotations

from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
STEP_FILES = ROOT / "tests/data/node_modules/occt-import-js/test/testfiles"


def step_file(name: str) -> Path:
    path = STEP_FILES / name
    if not path.exists():
        pytest.fail(f"{path} is missing: ./lamp test fetches it")
    return path


AS1 = "cax-if/as1-oc-214.stp"
"""An assembly of bolts, nuts, brackets, a rod and a plate: 18 parts."""
