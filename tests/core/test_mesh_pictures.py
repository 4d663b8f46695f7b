"""Pictures, their coordinates and variants of materials in mesh files."""

from __future__ import annotations

import dataclasses
import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from core.test_mesh_files import taken
from core.test_trace import color, mesh, square, world
from usual_lamp.core.appearance import Appearance, OpenPBR, from_cad, hex_to_linear
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.smoothing import corners_after, smooth_faces, welded
from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import UnreadablePicture
from usual_lamp.core.intake.gltf_text import GltfText, with_variant
from usual_lamp.core.picture.read import LARGEST, read_picture, safe_png
from usual_lamp.core.scene import first_scene, resolve_part
from usual_lamp.core.trace.world.world import World

MODELS = Path("/usr/share/assimp/models")
RED, GREEN, BLUE = (255, 0, 0), (0, 255, 0), (0, 0, 255)


def quarters() -> Image.Image:
    """Red at the top left, green at the top right, blue at the bottom left, white."""
    picture = Image.new("RGB", (64, 64), (255, 255, 255))
    for color_, box in ((RED, (0, 0, 32, 32)), (GREEN, (32, 0, 64, 32)), (BLUE, (0, 32, 32, 64))):
        picture.paste(color_, box)
    return picture


def sheet(**material) -> trimesh.Trimesh:
    """A square of 20 mm with v growing upwards, as the reader gives it."""
    points = np.array([(-10, -10, 0), (10, -10, 0), (10, 10, 0), (-10, 10, 0)], float)
    made = trimesh.Trimesh(points, [(0, 1, 2), (0, 2, 3)], process=False)
    uv = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], float)
    pbr = trimesh.visual.material.PBRMaterial(name="print", baseColorTexture=quarters(), **material)
    made.visual = trimesh.visual.TextureVisuals(uv=uv, material=pbr)
    return made


def glb(tmp_path: Path, mesh: trimesh.Trimesh, name: str = "sheet.glb") -> Path:
    file = tmp_path / name
    file.write_bytes(trimesh.Scene(mesh).export(file_type="glb"))
    return file


def test_a_picture_comes_along_with_where_it_lies(tmp_path: Path) -> None:
    assembly = taken(glb(tmp_path, sheet()), tmp_path / "out")
    (definition,) = assembly.definitions.values()
    mesh = Mesh.from_bytes((tmp_path / "out" / definition.mesh).read_bytes())
    assert mesh.coordinates is not None and mesh.coordinates.shape == (4, 2)
    picture = read_picture((tmp_path / "out" / definition.pictures["color"]).read_bytes(), color=True)
    assert picture[5, 5] == pytest.approx([1, 0, 0, 1], abs=0.01)
    assert definition.color == pytest.approx([0.5, 0.5, 0.5], abs=0.02), "the mean, for what shows no picture"
    (part,) = assembly.parts()
    found = resolve_part(assembly, first_scene(assembly, "r"), part)
    assert found.why == "from CAD" and found.appearance.textures[0].picture == definition.pictures["color"]


ABOVE = Camera(position=(0, 0, 100), target=(0, 0, 0), focal_length=90)
"""Sees 40 mm in 40 pixels."""
EVEN = np.full((32, 64, 3), 100.0, np.float32)


MATT = OpenPBR(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))


def textured(
    textures: tuple[Texture, ...], sheet: Mesh, picture: Image.Image, light=EVEN, params: OpenPBR = MATT
) -> np.ndarray:
    wear = Appearance(id="t", name="t", family="neutral", params=params, textures=textures)
    plain = world({"sheet": sheet}, [wear.model_copy(update={"textures": ()})], ABOVE, light, (40, 40))
    inputs = plain.inputs.model_copy(update={"appearances": [wear]})
    block = safe_png(picture)
    return color(World(inputs, plain.mesh_of, light, lambda _, is_color: read_picture(block, is_color)), 32) / 100


def with_coordinates() -> Mesh:
    plain = square(10.0)
    return dataclasses.replace(plain, coordinates=(plain.positions[:, :2] / 20 + 0.5).astype(np.float32))


def test_the_tracer_shows_it_the_right_way_up() -> None:
    seen = textured((Texture(picture="0" * 64),), with_coordinates(), quarters())
    # This camera has +y upwards: rows 10 to 30 and columns 10 to 30 hold the sheet.
    assert np.argmax(seen[13, 13]) == 0 and np.argmax(seen[13, 26]) == 1 and np.argmax(seen[26, 13]) == 2
    assert seen[26, 26] == pytest.approx(1.0, abs=0.02)
    turned = textured((Texture(picture="0" * 64, turn=90.0),), with_coordinates(), quarters())
    assert np.argmax(turned[26, 13]) == 0 and np.argmax(turned[13, 13]) == 1, "a quarter turn counter-clockwise"
    small = textured((Texture(picture="0" * 64, width=0.5, height=0.5),), with_coordinates(), quarters())
    assert np.argmax(small[12, 12]) == 0 and np.argmax(small[12, 22]) == 0, "twice across"


def test_bump_by_coordinates_tilts_by_millimetres() -> None:
    """20 mm high over 20 mm: 45 degrees, into light that comes from the left alone."""
    slope = Image.fromarray(np.tile(np.linspace(0, 255, 64).astype(np.uint8), (8, 1)))
    side = np.zeros((32, 64, 3), np.float32)
    side[:, 14:18] = 100.0
    up, down = (
        textured((Texture(picture="0" * 64, target="bump", strength=s),), with_coordinates(), slope, side)[
            20, 20
        ].mean()
        for s in (20.0, -20.0)
    )
    assert up > 2 * down


def test_a_clear_coat_stays_smooth_over_what_is_beneath_it() -> None:
    """A slope of 45 degrees under a mirror of a coat: seen from above, the coat mirrors what is above."""
    slope = Image.fromarray(np.tile(np.linspace(0, 255, 64).astype(np.uint8), (8, 1)))
    above = np.zeros((32, 64, 3), np.float32)
    above[:6] = 100.0
    params = OpenPBR(base_color=(0, 0, 0), specular_weight=0.0, coat_weight=1.0, coat_roughness=0.0, coat_ior=1.5)
    seen = []
    for beneath in (True, False):
        texture = Texture(picture="0" * 64, target="bump", strength=20.0, beneath_coat=beneath)
        seen.append(textured((texture,), with_coordinates(), slope, above, params)[20, 20].mean())
    assert seen[0] == pytest.approx(0.04, rel=0.05), "Fresnel at right angles, ((n - 1) / (n + 1))²"
    assert seen[1] < 0.1 * seen[0]


def test_grooves_run_round_the_ends_of_turned_parts() -> None:
    """On a disc that is turned about z, a picture that changes along v alone has the same value on every circle."""
    around = np.linspace(0, 2 * np.pi, 65)[:64]
    rim = np.stack([10 * np.cos(around), 10 * np.sin(around), np.zeros(64)], axis=1)
    wall = np.concatenate([rim, rim - (0, 0, 8)])
    out = np.concatenate([rim, rim]) / 10
    points, ways = np.concatenate([rim, wall]), np.concatenate([np.tile((0.0, 0, 1), (64, 1)), out])
    fan = [(0, k, k + 1) for k in range(1, 63)]
    quads = [(64 + a, 128 + a, 128 + (a + 1) % 64) for a in range(64)]
    quads += [(64 + a, 128 + (a + 1) % 64, 64 + (a + 1) % 64) for a in range(64)]
    disc = mesh(points, ways, [*fan, *quads])
    disc = dataclasses.replace(disc, face_ranges=np.array([[0, 62], [62, 128]], np.uint32))
    stripes = Image.fromarray(np.repeat(np.array([[255], [0]], np.uint8), 8, axis=0).repeat(16, axis=1))
    seen = textured(
        (Texture(picture="0" * 64, mapping="machined", width=8.0, height=8.0),), disc, stripes
    )[..., 0]  # fmt: skip
    y, x = np.mgrid[:40, :40] - 19.5
    radius = np.hypot(x, y)
    # The picture's upper half is white: from a radius of 4 to 8 mm, and dark from 0 to 4 and beyond 8.
    assert seen[(radius > 4.8) & (radius < 7.2)].min() > 0.9 and seen[radius < 3.2].max() < 0.1
    assert seen[(radius > 8.8) & (radius < 9.2)].max() < 0.1


def test_the_mesh_readers_own_checks_of_moved_pictures(tmp_path: Path) -> None:
    """Khronos' TextureTransformTest: pictures end on their tick only where offset, turn and scale are obeyed."""
    file = MODELS / "glTF2/textureTransform/TextureTransformTest.gltf"
    text = GltfText.read(file)
    assert text is not None and len(text.moved_pictures()) == 6
    assembly = taken(file, tmp_path / "out")
    used = {d.name: Mesh.from_bytes((tmp_path / "out" / d.mesh).read_bytes()) for d in assembly.definitions.values()}
    both = next(mesh for name, mesh in used.items() if name.startswith("Offset UV"))
    assert both.coordinates is not None
    # A quarter of the picture is on it, moved by half a picture each way, v downwards.
    low, high = both.coordinates.min(axis=0), both.coordinates.max(axis=0)
    assert low == pytest.approx([0.5, 0.0], abs=1e-3) and high == pytest.approx([1.0, 0.5], abs=1e-3)


def test_side_files_with_backslashes(tmp_path: Path) -> None:
    """Debian's spider writes `map_Kd .\\name.jpg`."""
    assembly = taken(MODELS / "OBJ/spider.obj", tmp_path / "out")
    assert sum("color" in d.pictures for d in assembly.definitions.values()) == 4


def variants(tmp_path: Path) -> Path:
    mesh = sheet()
    mesh.visual = trimesh.visual.TextureVisuals(material=trimesh.visual.material.PBRMaterial(name="blue"))
    file = glb(tmp_path, mesh, "variants.glb")
    text = GltfText.read(file)
    assert text is not None
    rough = {"baseColorFactor": [0.9, 0.1, 0.1, 1], "roughnessFactor": 0.4}
    text.tree["materials"].append({"name": "red", "pbrMetallicRoughness": rough})
    text.tree["extensions"] = {"KHR_materials_variants": {"variants": [{"name": "Sea"}, {"name": "Rust"}]}}
    mappings = [{"material": 0, "variants": [0]}, {"material": 1, "variants": [1]}]
    text.tree["meshes"][0]["primitives"][0]["extensions"] = {"KHR_materials_variants": {"mappings": mappings}}
    text.write(file)
    return file


def test_a_variant_is_chosen_by_its_name(tmp_path: Path) -> None:
    file = variants(tmp_path)
    names, source = with_variant(file, "Rust", tmp_path)
    assert names == ["Sea", "Rust"] and source != file
    (definition,) = taken(source, tmp_path / "out").definitions.values()
    assert definition.material == "red" and definition.color == pytest.approx([0.9, 0.1, 0.1], abs=0.003)
    assert with_variant(file, None, tmp_path) == (["Sea", "Rust"], file)
    assert with_variant(file, "Moon", tmp_path)[1] == file


@pytest.mark.parametrize("damage", ["null", "[]", '{"extensions": 3}', '{"materials": [1, null, {"name": 2}]}', "{"])
def test_odd_texts_are_no_variants(tmp_path: Path, damage: str) -> None:
    file = tmp_path / "a.gltf"
    file.write_text(damage)
    assert with_variant(file, "x", tmp_path) == ([], file)
    text = GltfText.read(file)
    assert text is None or text.moved_pictures() == {}


def test_seams_keep_their_normals_and_survive_a_new_crease() -> None:
    ball = trimesh.creation.icosphere(2)
    around = np.arctan2(ball.vertices[:, 1], ball.vertices[:, 0]) / (2 * np.pi)
    corners = np.stack([around[ball.faces], ball.vertices[ball.faces][..., 2]], axis=2)
    # Where a triangle crosses the seam its corners lie beyond 1, as every file writes it.
    crossing = np.ptp(corners[..., 0], axis=1) > 0.5
    corners[crossing, :, 0] = np.where(
        corners[crossing, :, 0] < 0, corners[crossing, :, 0] + 1, corners[crossing, :, 0]
    )
    mesh = smooth_faces(ball.vertices, ball.faces, 60.0, corners)
    assert mesh.coordinates is not None and len(mesh.positions) > len(ball.vertices)
    outward = mesh.positions / np.linalg.norm(mesh.positions, axis=1, keepdims=True)
    assert (outward * mesh.normals).sum(axis=1).min() > 0.98
    again = smooth_faces(*welded(mesh)[:2], 60.0, welded(mesh)[2])
    assert again.coordinates is not None
    wide, before = (np.sort(np.ptp(c[..., 0], axis=1)) for c in (again.coordinates[again.triangles], corners))
    np.testing.assert_allclose(wide, before, atol=1e-6, err_msg="no triangle spans more of the picture than it did")
    mixed = np.random.default_rng(4).permutation(len(ball.faces))[:100]
    turned = ball.faces[mixed][:, ::-1]
    np.testing.assert_allclose(corners_after(ball.faces, corners, turned), corners[mixed][:, ::-1])


def test_pictures_are_made_safe() -> None:
    wide = Image.new("RGB", (LARGEST + 500, 10), RED)
    small = Image.open(io.BytesIO(safe_png(wide)))
    assert small.width == LARGEST and small.mode == "RGBA"
    with pytest.raises(UnreadablePicture, match="could not be read"):
        safe_png(b"\x89PNG\r\n\x1a\n and then nothing")
    with pytest.raises(UnreadablePicture, match="Make it smaller"):
        safe_png(bomb())
    grey = read_picture(safe_png(Image.new("RGB", (2, 2), (128, 128, 128))), color=True)
    assert grey[0, 0, 0] == pytest.approx(hex_to_linear("#808080")[0], abs=1e-4)
    plain = from_cad((0.5, 0.5, 0.5))
    pictured = from_cad((0.5, 0.5, 0.5), pictures=(("color", "a" * 64),))
    assert plain.id != pictured.id and pictured.id.startswith(plain.id)


def bomb() -> bytes:
    """A header that promises 400 million pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 20_000, 20_000, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0")) + chunk(b"IEND", b"")


def test_gltf_materials_come_with_their_extensions(tmp_path: Path) -> None:
    """Khronos' words for each extension, and that what is not stated is not made up."""
    mesh = sheet()
    mesh.visual = trimesh.visual.TextureVisuals(material=trimesh.visual.material.PBRMaterial(name="cover"))
    file = glb(tmp_path, mesh, "finish.glb")
    text = GltfText.read(file)
    assert text is not None and text.finishes() == {"cover": {}}
    extensions = {
        "KHR_materials_transmission": {"transmissionFactor": 1.0},
        "KHR_materials_volume": {
            "thicknessFactor": 0.002,
            "attenuationDistance": 0.01,
            "attenuationColor": [0.5, 0.8, 1],
        },
        "KHR_materials_ior": {"ior": 1.45},
        "KHR_materials_clearcoat": {"clearcoatFactor": 0.7, "clearcoatRoughnessFactor": 0.1},
        "KHR_materials_emissive_strength": {"emissiveStrength": 4.0},
        "KHR_materials_sheen": {"sheenColorFactor": [2, 0, 0]},
    }
    stated = {"emissiveFactor": [0.5, 0.25, 0], "pbrMetallicRoughness": {"roughnessFactor": 0.1, "metallicFactor": 0.0}}
    text.tree["materials"][0] |= stated | {"extensions": extensions}
    text.write(file)
    assembly = taken(file, tmp_path / "out")
    (part,) = assembly.parts()
    p = resolve_part(assembly, first_scene(assembly, "r"), part).appearance.params
    assert (p.transmission_weight, p.transmission_depth, p.transmission_color) == (1.0, 10.0, (0.5, 0.8, 1.0))
    assert (p.specular_ior, p.coat_weight, p.specular_roughness, p.geometry_thin_walled) == (1.45, 0.7, 0.1, False)
    assert p.emission_color == (1.0, 0.5, 0.0) and p.emission_luminance == 500.0
    assert p.fuzz_weight == 0.0, "a colour beyond 1 is no colour"
