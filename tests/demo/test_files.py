"""The demo's files are modelled once, and again when what models them has changed."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from demo import files


@pytest.fixture
def modelled(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Folders that were made so far, by a stand-in for the modelling, in a checkout of its own."""
    made: list[str] = []

    def make(folder: Path) -> None:
        folder.mkdir()
        for name in files.NAMES:
            (folder / name).write_text(f"{name} {len(made)}")
        made.append(folder.name)

    (tmp_path / "demo").mkdir()
    for name in files.GENERATOR:
        (tmp_path / "demo" / f"{name}.py").write_text("x = 1")
    monkeypatch.setattr(files, "ROOT", tmp_path)
    monkeypatch.setattr(files, "FOLDER", tmp_path / ".demo")
    monkeypatch.setattr(files, "_make", make)
    return made


def test_two_who_ask_at_once_make_them_once(modelled: list[str]) -> None:
    with ThreadPoolExecutor(2) as pool:
        one, other = pool.map(lambda _: files.demo_files(), range(2))
    assert one == other and len(modelled) == 1


def test_a_changed_generator_makes_them_anew(modelled: list[str], tmp_path: Path) -> None:
    before = files.demo_files()
    (tmp_path / "demo" / "solids.py").write_text("x = 2")
    assert files.demo_files() != before and len(set(modelled)) == 2


def test_an_office_has_the_revision_in_use_and_the_next(modelled: list[str], tmp_path: Path) -> None:
    office = tmp_path / "office"
    files.lay_out(office)
    files.lay_out(office)
    assert (office / "dosing-pump.step").read_text() == "dosing-pump.step 0"
    assert (office / "next" / "dosing-pump.step").read_text() == "next.step 0"
    assert sorted(path.name for path in office.iterdir()) == ["dosing-pump.step", "next"]
