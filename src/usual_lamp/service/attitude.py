"""Attitude and placement of models: turn, set down on a face, in a resting attitude or on the floor, face to face."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.resting import Rest, resting_attitudes
from usual_lamp.core.scene import Placement, Scene, SetModels
from usual_lamp.core.scene.attitude import (
    face_to_face,
    placement_of,
    quarter_turn,
    set_down,
    turned_about,
    turning,
)
from usual_lamp.service import editing, meshes
from usual_lamp.service.editing import Edited
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import arranged_assembly, assembly_of, require, scene_of
from usual_lamp.store import Store

Array = NDArray[np.float64]
MOST_RESTS = 8


@dataclass(frozen=True)
class FaceOf:
    """A face of a part."""

    uid: str
    face: int


@dataclass(frozen=True)
class AttitudeChange:
    """One of the things that can be done with a model's placement; exactly one is set."""

    axis: int | None = None
    degrees: float = 90.0
    rest: tuple[float, float, float] | None = None
    """Direction in the model's own frame that shall point down."""
    face: FaceOf | None = None
    """Put down on this face, or with `against`: lay it against that one."""
    against: FaceOf | None = None
    floor: bool = False
    reset: bool = False


def place(store: Store, review_id: str, model: str, step: AttitudeChange) -> Edited:
    """Do one step with a model, as one edit. Raises NotFound, Refused."""

    def change(session: Session, scene: Scene) -> SetModels:
        use = scene.models.get(model)
        if use is None:
            raise NotFound("That model is not in this review any more.")
        whole = arranged_assembly(store, session, scene)
        made = Placement() if step.reset else _placed(store, whole, scene, model, step)
        return SetModels(models={model: use.model_copy(update={"placement": made})})

    return editing.edit_with(store, review_id, change)


def _placed(store: Store, whole: Assembly, scene: Scene, model: str, step: AttitudeChange) -> Placement:
    placement = scene.models[model].placement
    before = placement.matrix
    points = _points(store, whole, scene, model)
    center = (points.min(axis=0) + points.max(axis=0)) / 2
    floor = _floor(whole, scene, model)
    if step.against is not None and step.face is not None:
        mine, theirs = (_face(store, whole, face) for face in (step.face, step.against))
        return placement_of(face_to_face(before, *mine, *theirs), placement.pivot)
    if step.axis is not None:
        rotation = quarter_turn(step.axis, step.degrees)
    elif step.rest is not None:
        rotation = turning(before[:3, :3] @ np.array(step.rest), np.array([0.0, 0.0, -1.0]))
    elif step.face is not None:
        rotation = turning(_face(store, whole, step.face)[0], np.array([0.0, 0.0, -1.0]))
    else:
        rotation = np.eye(3)
    if step.axis is None and not step.floor and step.rest is None and step.face is None:
        raise Refused("Say what to do with the model.")
    turned = turned_about(before, rotation, center)
    return placement_of(set_down(turned, _turn(points, rotation, center), floor), placement.pivot)


def _turn(points: Array, rotation: Array, center: Array) -> Array:
    return np.asarray((points - center) @ rotation.T + center)


def _floor(whole: Assembly, scene: Scene, model: str) -> float:
    """Height that a model is set down on: where the others stand, or where it stood itself."""
    shown = [part for part in whole.parts() if part.uid not in scene.states]
    others = [part for part in shown if part.model != model and not scene.models[part.model].piece]
    mine = [part for part in shown if part.model == model]
    stand = others or mine or list(whole.parts())
    return min(float(whole.corners(part)[:, 2].min()) for part in stand)


@lru_cache(maxsize=512)
def _hull(store: Store, mesh: str) -> Array:
    """The corners of a mesh's convex hull; what a set-down needs of it."""
    points = meshes.read(store, mesh).positions.astype(np.float64)
    try:
        return np.asarray(points[scipy.spatial.ConvexHull(points).vertices])
    except (scipy.spatial.QhullError, ValueError):
        return points


def _points(store: Store, whole: Assembly, scene: Scene, model: str) -> Array:
    """Hull corners of the model's parts that are not suppressed, where they lie now."""
    found = []
    for part in whole.parts():
        if part.model == model and scene.states.get(part.uid) != "suppressed":
            hull, matrix = _hull(store, whole.definition_of(part).mesh), whole.world[part.uid]
            found.append(hull @ matrix[:3, :3].T + matrix[:3, 3])
    if not found:
        raise Refused("Everything of this model is suppressed: bring a part back first.")
    return np.concatenate(found)


def _face(store: Store, whole: Assembly, face: FaceOf) -> tuple[Array, Array]:
    """Mean outward normal of a face where it lies now, and its middle, moved out to where a plate would touch it.

    Raises NotFound, Refused.
    """
    corners = corners_of_face(store, whole, face)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal, areas = cross.sum(axis=0), np.linalg.norm(cross, axis=1)
    if np.linalg.norm(normal) < 0.2 * areas.sum():
        raise Refused("That face goes all the way round: select a flat one.")
    matrix = whole.world[face.uid]
    middle, way = areas @ corners.mean(axis=1) / areas.sum(), normal / np.linalg.norm(normal)
    middle += way * float(((corners - middle) @ way).max())
    return matrix[:3, :3] @ way, matrix[:3, :3] @ middle + matrix[:3, 3]


def corners_of_face(store: Store, whole: Assembly, face: FaceOf) -> Array:
    """Corners of a face's triangles (T, 3, 3) mm, in its part's frame. Raises NotFound."""
    part = whole.by_uid.get(face.uid)
    if part is None or part.definition is None:
        raise NotFound("That part is not in this review any more.")
    mesh = meshes.read(store, whole.definition_of(part).mesh)
    if not 0 <= face.face < len(mesh.face_ranges):
        raise NotFound("That part has no such face.")
    first, count = (int(value) for value in mesh.face_ranges[face.face])
    return mesh.positions[mesh.triangles[first : first + count]].astype(np.float64)


def rests(store: Store, review_id: str, model: str) -> list[Rest]:
    """The attitudes in which the model rests by itself, in its own frame, the likeliest first. Raises NotFound."""
    with store.begin() as session:
        scene = scene_of(require(session, review_id))
        use = scene.models.get(model)
        if use is None:
            raise NotFound("That model is not in this review any more.")
        whole = arranged_assembly(store, session, scene)
        assembly_of(store, session, use.revision)
    back = np.linalg.inv(use.placement.matrix)
    points = _points(store, whole, scene, model) @ back[:3, :3].T + back[:3, 3]
    weight, moment = 0.0, np.zeros(3)
    for part in whole.parts():
        if part.model == model and scene.states.get(part.uid) != "suppressed":
            definition, matrix = whole.definition_of(part), back @ whole.world[part.uid]
            center = _centroid(store, definition.mesh)
            # Bodies weigh by their volume; sheets of a mesh file by what their box would hold, thinly.
            size = np.ptp(np.array(definition.bounds), axis=0)
            mass = abs(definition.volume) or 0.01 * float(np.prod(np.maximum(size, 1e-3)))
            weight += mass
            moment += mass * (matrix[:3, :3] @ center + matrix[:3, 3])
    return resting_attitudes(points, moment / max(weight, 1e-12))[:MOST_RESTS]


@lru_cache(maxsize=512)
def _centroid(store: Store, mesh: str) -> Array:
    """Centre of the enclosed volume; of the surface where nothing is enclosed."""
    found = meshes.read(store, mesh)
    a, b, c = np.moveaxis(found.positions[found.triangles].astype(np.float64), 1, 0)
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c))
    if abs(volumes.sum()) > 1e-6 * np.abs(volumes).sum():
        return np.asarray(volumes @ (a + b + c) / 4 / volumes.sum())
    return np.asarray((a + b + c).mean(axis=0) / 3)
