"""What is made of meshes: once, the same for all who ask, and nothing of what is no mesh."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.laying import Laid, laid
from usual_lamp.core.assembly.unwrapping import unwrapped
from usual_lamp.service import meshes
from usual_lamp.service.errors import NotFound
from usual_lamp.store import blobs

FLAT = (1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0, 0)


@pytest.fixture
def plate(store, as1) -> str:
    """The name of a mesh in the store."""
    found = next(d for d in as1.assembly.definitions.values() if d.name == "plate")
    with store.begin() as session:
        blobs.put_file(session, as1.blobs[found.mesh], "application/octet-stream")
    return found.mesh


@pytest.mark.parametrize("how", [None, Laid("plane", FLAT), Laid("plane", (*FLAT[:3], 5.0, *FLAT[4:]))])
def test_coordinates_are_worked_out_once(store, plate: str, how: Laid | None, monkeypatch) -> None:
    plain = meshes.read(store, plate)
    expected = laid(plain, how) if how else unwrapped(plain)
    found = meshes.read_mapped(store, plate, how)
    np.testing.assert_array_equal(found.coordinates, expected.coordinates)
    monkeypatch.setattr(meshes, "mapped", lambda *_: pytest.fail("worked out again"))
    again = meshes.read_mapped(store, plate, how)
    np.testing.assert_array_equal(again.coordinates, expected.coordinates)


def test_layings_do_not_take_each_others_place(store, plate: str) -> None:
    ways = [None, *(Laid(kind, FLAT, radius) for kind in ("plane", "cylinder", "box") for radius in (10.0, 20.0))]
    assert len({meshes.mapped_file(store, plate, how) for how in ways} | {meshes.coarse_file(store, plate)}) == 8
    assert Mesh.from_bytes(meshes.coarse_file(store, plate).read_bytes()).triangles.size > 0


def test_what_is_no_mesh_is_said_and_leaves_nothing_behind(store) -> None:
    with store.begin() as session:
        name = blobs.put_bytes(session, b"solid of words", "text/plain")
    for ask in (meshes.read, meshes.coarse_file, lambda *a: meshes.mapped_file(*a, None)):
        with pytest.raises(NotFound, match="no mesh"):
            ask(store, name)
    assert [file.name for file in blobs.local(store, name).parent.iterdir()] == [name]
    with pytest.raises(blobs.BlobMissing):
        meshes.read(store, "0" * 64)
