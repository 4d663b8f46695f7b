"""Who can be seen in a scene. The question is a document of its own, so that it is answered once, and elsewhere."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.assembly.visibility import Placed, Sight, Viewpoint
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.levels import Resolved
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.section import sectioned
from usual_lamp.core.scene.shot import Shot

Array = NDArray[np.float64]
SWEEP = 480
"""Rays across a shot in its sweep."""


class SeenPart(BaseModel):
    """A part that may hide others: mesh, matrix (mm), and whether one sees through it."""

    uid: str
    mesh: str
    matrix: list[float]
    clear: bool


class SeenFrom(BaseModel):
    """A shot: its camera and the width of its picture over the height."""

    camera: Camera
    aspect: float
    gone: list[str] = []
    """Parts that its section takes away, by uid."""
    cut: dict[str, str] = {}
    """The meshes of those that it cuts."""


class SightQuestion(BaseModel):
    """Who can be seen, as a document of its own."""

    parts: list[SeenPart]
    shots: dict[str, SeenFrom]

    def key(self) -> str:
        """Return the sha256 of the question."""
        return hashlib.sha256(self.model_dump_json().encode()).hexdigest()


class SightAnswer(BaseModel):
    """Which parts cannot be seen, by uid."""

    never: list[str]
    """Parts that show from no side."""
    not_in_shot: dict[str, list[str]]
    """By shot, the parts of which nothing is in it."""


def sight_question(assembly: Assembly, scene: Scene) -> SightQuestion:
    """Return the question for what a scene shows, in all looks."""
    parts, looks = [], [ResolvedScene(assembly, scene, look) for look in scene.looks]
    placed = _placed(assembly)
    # Few appearances are worn by many parts: each is looked at once.
    worn_by_any = {id(a): a for resolved in looks for found in resolved.worn.values() for a in _all_worn(found)}
    clear = {number for number, appearance in worn_by_any.items() if is_clear(appearance)}
    for part in looks[0].shown:
        seen_through = any(id(a) in clear for resolved in looks for a in _all_worn(resolved.worn[part.uid]))
        mesh, matrix = placed[part.uid]
        parts.append(SeenPart.model_construct(uid=part.uid, mesh=mesh, matrix=matrix, clear=seen_through))
    shots = {key: _seen_from(looks[0], shot) for key, shot in scene.shots.items()}
    return SightQuestion(parts=parts, shots=shots)


def _seen_from(resolved: ResolvedScene, shot: Shot) -> SeenFrom:
    found = SeenFrom(camera=shot.camera, aspect=shot.width / shot.height)
    if shot.section is None:
        return found
    does = sectioned(resolved.assembly, resolved.shown, shot.section)
    return found.model_copy(update={"gone": sorted(does.gone), "cut": does.cut})


def _all_worn(found: Resolved) -> tuple[Appearance, ...]:
    """What a part shows, as a whole and on its faces."""
    return found.appearance, *found.faces.values()


def _placed(assembly: Assembly) -> dict[str, tuple[str, list[float]]]:
    """Mesh and matrix of every part, the same as long as the arrangement is."""
    if "seen in place" not in assembly.kept:
        assembly.kept["seen in place"] = {
            part.uid: (assembly.definition_of(part).mesh, np.round(assembly.world[part.uid], 6).ravel().tolist())
            for part in assembly.parts()
        }
    found: dict[str, tuple[str, list[float]]] = assembly.kept["seen in place"]
    return found


def is_clear(appearance: Appearance) -> bool:
    """Whether one sees through it at all; frosted glass counts, as shapes behind it show, and so do holes."""
    params = appearance.params
    if any(texture.target == "opacity" for texture in appearance.textures):
        return True
    return params.geometry_opacity < 0.99 or params.transmission_weight > 0.05


def answer_sight(question: SightQuestion, mesh_of: Callable[[str], Mesh]) -> SightAnswer:
    """Return which parts show from no side, and in no shot. `mesh_of` brings meshes by name."""
    meshes: dict[str, Mesh] = {part.mesh: mesh_of(part.mesh) for part in question.parts}
    placed = [Placed(meshes[part.mesh], np.array(part.matrix).reshape(4, 4), part.clear) for part in question.parts]
    sight = Sight(placed)
    uids = [part.uid for part in question.parts]
    shown = {uids[index] for index in sight.from_outside()}
    not_in = {}
    for name, shot in question.shots.items():
        view = viewpoint(shot.camera, shot.aspect, sight.radius * 4)
        if shot.gone or shot.cut:
            seen = _seen_cut(shot, dict(zip(uids, placed, strict=True)), view, mesh_of)
            shown |= seen
        else:
            seen = {uids[index] for index in sight.from_viewpoint(view)}
        not_in[name] = [uid for uid in uids if uid not in seen]
    return SightAnswer(never=[uid for uid in uids if uid not in shown], not_in_shot=not_in)


def _seen_cut(shot: SeenFrom, parts: dict[str, Placed], view: Viewpoint, mesh_of: Callable[[str], Mesh]) -> set[str]:
    """Uids of the parts that show in a shot which a section opens."""
    left = {uid: part for uid, part in parts.items() if uid not in shot.gone}
    for uid, name in shot.cut.items():
        left[uid] = replace(left[uid], mesh=mesh_of(name))
    left = {uid: part for uid, part in left.items() if len(part.mesh.triangles)}
    uids = list(left)
    return {uids[index] for index in Sight(list(left.values())).from_viewpoint(view)}


def viewpoint(camera: Camera, aspect: float, reach: float) -> Viewpoint:
    """A camera's rays; `reach` (mm) is how far before the frame parallel rays begin."""
    across, along = camera.half_tangents(aspect)
    right, up = camera.offset()
    basis, eye = camera.basis(), np.array(camera.position)
    distance = float(np.linalg.norm(np.subtract(camera.target, camera.position)))
    rows = max(int(SWEEP / aspect), 1)
    x, y = np.meshgrid((np.arange(SWEEP) + 0.5) / SWEEP * 2 - 1, (np.arange(rows) + 0.5) / rows * 2 - 1)
    slopes = np.stack([x.ravel() * across + right, y.ravel() * along + up], axis=1)
    if camera.parallel:
        origins = eye - basis[2] * reach + slopes @ basis[:2] * distance
        directions = np.broadcast_to(basis[2], origins.shape)
    else:
        directions = slopes @ basis[:2] + basis[2]
        directions = directions / np.linalg.norm(directions, axis=1, keepdims=True)
        origins = np.broadcast_to(eye, directions.shape)

    def toward(points: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
        """Directions to the eye, distances (mm) and whether points (N, 3) lie in the frame."""
        seen = camera.project(points, aspect)
        inside: NDArray[np.bool_] = np.all(np.abs(seen[:, :2]) <= 1, axis=1)
        if camera.parallel:
            ways = np.broadcast_to(-basis[2], points.shape)
            return ways, np.full(len(points), 4 * reach), inside
        ways = eye - points
        far = np.linalg.norm(ways, axis=1)
        return ways / np.maximum(far, 1e-9)[:, None], far, np.logical_and(inside, seen[:, 2] > 0)

    return Viewpoint(origins, directions, toward)
