"""Files that nobody should send and somebody will: each a clear sentence or a listed warning, never a traceback."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from usual_lamp.core.intake import IntakeError, take_in


def nested(levels: int, names: list[str]) -> bytes:
    """A GLB whose one box lies under a chain of nodes with given names in turn."""
    box = trimesh.creation.box((0.01, 0.02, 0.03))
    points, faces = box.vertices.astype("<f4").tobytes(), box.faces.astype("<u4").tobytes()
    nodes = [{"name": names[k % len(names)], "children": [k + 1]} for k in range(levels)] + [{"name": "box", "mesh": 0}]
    tree = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": nodes,
        "meshes": [{"name": "box", "primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 8, "type": "VEC3", "min": [-1] * 3, "max": [1] * 3},
            {"bufferView": 1, "componentType": 5125, "count": 36, "type": "SCALAR"},
        ],
        "bufferViews": [{"buffer": 0, "byteLength": len(points)},
                        {"buffer": 0, "byteOffset": len(points), "byteLength": len(faces)}],
        "buffers": [{"byteLength": len(points) + len(faces)}],
    }  # fmt: skip
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    body = points + faces
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(body), 0x004E4942) + body
    return struct.pack("<III", 0x46546C67, 2, 12 + len(chunks)) + chunks


def taken(data: bytes, name: str, tmp_path: Path):
    (tmp_path / name).write_bytes(data)
    return take_in(tmp_path / name, tmp_path / "out", quality="coarse").assembly


def ply_with_corner(number: int) -> bytes:
    """A triangle of three points, of which the last corner is the point with this number."""
    head = ["ply", "format ascii 1.0", "element vertex 3", "property float x", "property float y", "property float z"]
    head += ["element face 1", "property list uchar int vertex_indices", "end_header"]
    return "\n".join([*head, "0 0 0", "1 0 0", "0 1 0", f"3 0 1 {number}", ""]).encode()


def test_a_model_comes_in_without_its_damaged_picture(tmp_path: Path) -> None:
    """The texture is cut in the middle of its pixels, as a transfer that broke off leaves it."""
    noise = np.random.default_rng(1).integers(0, 256, (64, 64, 3), np.uint8)
    plate = trimesh.creation.box((4, 5, 6))
    plate.visual = trimesh.visual.TextureVisuals(np.zeros((8, 2)), image=Image.fromarray(noise))
    whole = taken(plate.export(file_type="glb"), "plate.glb", tmp_path)
    assert "color" in whole.definitions["d1"].pictures
    data = bytearray(plate.export(file_type="glb"))
    begin = data.index(b"IDAT") + 400
    data[begin : begin + 4000] = bytes(4000)
    found = taken(bytes(data), "plate.glb", tmp_path)
    assert found.definitions["d1"].triangles == 12 and not found.definitions["d1"].pictures
    assert any("the picture for its colour is not taken over. It is damaged." in words for words in found.warnings)


def test_two_hundred_levels_and_names_in_every_script(tmp_path: Path) -> None:
    names = ["Gehäuse", "外壳", "غطاء", "🔩 <b>&amp;", "a\u202eb", "tab\tnew\nline", "'; DROP TABLE review; --", " "]
    found = taken(nested(200, names), "deep.glb", tmp_path)
    [part] = found.parts()
    assert len(list(found.ancestors(part.uid))) >= 200
    assert {"外壳", "غطاء", "🔩 <b>&amp;"} <= {node.name.rsplit("_", 1)[0] for node in found.occurrences}
    assert np.allclose(np.ptp(found.corners(part), axis=0), [10, 30, 20])


def test_deeper_than_anyone_builds_is_refused_in_words(tmp_path: Path) -> None:
    with pytest.raises(IntakeError, match=r"nested|could not be read"):
        taken(nested(5000, ["n"]), "abyss.glb", tmp_path)


@pytest.mark.parametrize(
    "data,name,words",
    [
        (b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "a.obj", "no numbers"),
        (b"v 1e12 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "a.obj", "farther than"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "a.obj", r"could not be read|no triangle|no mesh"),
        (json.dumps({"asset": {"version": "2.0"}, "scenes": [{"nodes": []}]}).encode(), "a.gltf", r"no mesh|could not"),
        (b"PK\3\4 no archive at all", "a.3mf", "could not be read"),
        (ply_with_corner(3), "a.ply", "points that are not there"),
        (ply_with_corner(-1), "a.ply", "points that are not there"),
        (b"solid a\nendsolid a\n", "a.stl", r"no mesh|no triangle|could not"),
        (trimesh.creation.box().export(file_type="stl"), "a.ply", "could not be read"),
        (b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", "a.step", r"no product|syntax"),
    ],
)
def test_what_cannot_be_a_model_says_why(data: bytes, name: str, words: str, tmp_path: Path) -> None:
    with pytest.raises(IntakeError, match=words):
        taken(data, name, tmp_path)


@pytest.mark.parametrize("suffix", ["glb", "obj", "3mf", "ply", "stl", "off", "dae"])
def test_mutated_and_cut_meshes_are_refused_or_come_in_finite(suffix: str, tmp_path: Path) -> None:
    scene = trimesh.Scene({"ball": trimesh.creation.icosphere(1, 3.0), "box": trimesh.creation.box((4, 5, 6))})
    whole = scene.export(file_type=suffix) if suffix in ("glb", "obj", "3mf") else None
    data = whole if whole is not None else trimesh.creation.icosphere(1, 3.0).export(file_type=suffix)
    data = data.encode() if isinstance(data, str) else bytes(data)
    for seed in range(3):
        random = np.random.default_rng(seed)
        bad = bytearray(data)
        for place in random.integers(0, len(bad), 40):
            bad[place] = random.integers(0, 256)
        bad = bad[: int(len(bad) * random.uniform(0.4, 1.0))] if seed else bad
        try:
            found = taken(bytes(bad), f"{seed}.{suffix}", tmp_path)
        except IntakeError as error:
            assert "Traceback" not in str(error) and "could not be imported (" not in str(error), error
        else:
            assert all(np.isfinite(found.corners(part)).all() for part in found.parts())
