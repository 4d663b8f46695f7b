"""Shared fixtures: public STEP files, a taken-in assembly, a clean database."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from public_files import AS1, step_file
from usual_lamp.core.intake import IntakeResult, sandbox, take_in
from usual_lamp.core.intake.sandbox import PRELOADED
from usual_lamp.core.sandbox import Nursery, run_job


@pytest.fixture(scope="session", autouse=True)
def warm_imports() -> Iterator[None]:
    """Imports come from a nursery, as in the running product: loading the CAD kernel anew for each takes a second."""
    made = Nursery(*PRELOADED)

    def warm(*arguments: Any, nursery: Nursery | None = None, **options: Any) -> Any:
        return run_job(*arguments, nursery=nursery or made, **options)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sandbox, "run_job", warm)
        yield
    made.close()


@pytest.fixture(scope="session")
def as1(tmp_path_factory: pytest.TempPathFactory) -> IntakeResult:
    """The public assembly as1-oc-214: bolts, nuts, brackets, a rod and a plate."""
    return take_in(step_file(AS1), tmp_path_factory.mktemp("as1"), quality="fair")


@pytest.fixture
def small_disk() -> Iterator[Callable[[str], Path]]:
    """Makes a disk of a size (as `mount` writes it) that is soon full; its folder."""
    if os.geteuid() != 0 or shutil.which("mount") is None:
        pytest.skip("only root can make a small disk")
    made: list[Path] = []

    def make(size: str) -> Path:
        folder = Path(tempfile.mkdtemp(prefix="usual-lamp-disk-"))
        command = ["mount", "-t", "tmpfs", "-o", f"size={size},mode=700", "tmpfs", str(folder)]
        if subprocess.run(command, check=False).returncode != 0:
            folder.rmdir()
            pytest.skip("this machine lets nobody make a small disk")
        made.append(folder)
        return folder

    yield make
    for folder in made:
        subprocess.run(["umount", "-l", str(folder)], check=True)
        folder.rmdir()


@pytest.fixture
def store(tmp_path: Path) -> Iterator[object]:
    """A store on the test database, emptied first."""
    from sqlalchemy import text

    from usual_lamp.store import Store
    from usual_lamp.store.migrate import migrate
    from usual_lamp.store.tables import Base

    urls = os.environ.get("USUAL_LAMP_TEST_DATABASE", "").split()
    if not urls:
        pytest.fail("USUAL_LAMP_TEST_DATABASE is not set: run ./lamp test")
    # One for each process that shares the tests: gw0, gw1 and so on.
    worker = os.environ.get("PYTEST_XDIST_WORKER", "gw0")
    made = Store(urls[int(worker.removeprefix("gw"))], tmp_path / "cache")
    migrate(made)
    with made.begin() as session:
        session.execute(text("SET FOREIGN_KEY_CHECKS=0"))
        for table in Base.metadata.tables:
            session.execute(text(f"DELETE FROM `{table}`"))
        session.execute(text("SET FOREIGN_KEY_CHECKS=1"))
    yield made
    made.engine.dispose()


@pytest.fixture
def review(store, as1: IntakeResult) -> str:
    """A review of as1 in the database; its id."""
    from usual_lamp.service import reviews
    from usual_lamp.store import blobs
    from usual_lamp.store.tables import ModelRevision

    with store.begin() as session:
        for path in as1.blobs.values():
            blobs.put_file(session, path, "application/octet-stream")
        manifest = blobs.put_bytes(session, as1.assembly.model_dump_json().encode(), "application/json")
        session.add(ModelRevision(id="rev", file_name="as1.stp", manifest=manifest, source=manifest))
        session.flush()
        return reviews.make_review(session, "as1", "rev", as1.assembly).id
