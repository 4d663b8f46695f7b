"""The models of a review beside the first: further files, and pieces of context made in place."""

from __future__ import annotations

import numpy as np
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.scene import ModelUse, Piece, Placement, Scene, SetModels, model_points
from usual_lamp.core.scene.document import PartState
from usual_lamp.core.scene.pieces import PIECE_NAMES, piece_assembly
from usual_lamp.service import editing
from usual_lamp.service.editing import Edited
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.intakes import keep_revision
from usual_lamp.service.reviews import arranged_assembly, assembly_of, new_id
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import IntakeRun

GAP = 0.15
"""Between models that are set side by side, of the new one's width."""


def next_model_id() -> str:
    """Never one that was used before: what hung on a model that was removed must not come alive on another."""
    return f"model-{new_id()}"


def add_found(store: Store, run_id: str, attempt: int) -> Edited:
    """Set a model that was taken in for a review beside what is there, and end its run.

    Raises NotFound, or Refused when the run was stopped or taken over meanwhile.
    """
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        if run is None or run.purpose != "add":
            raise NotFound("There is no such model to add.")
        review_id = run.review_id or ""

    def change(session: Session, scene: Scene) -> SetModels:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None or run.state != "running" or run.attempt != attempt:
            raise Refused("This import was stopped.")
        found = assembly_of(store, session, run.revision or "")
        salt = new_id()
        named = found.renamed(
            {node.uid: f"p{content_hash((salt + node.uid).encode())[:12]}" for node in found.occurrences}
        )
        revision = keep_revision(session, named, run.file_name, run.source)
        run.state, run.progress, run.stage, run.lease = "done", 1.0, "done", None
        states: dict[str, PartState | None] = dict.fromkeys(named.hidden_in_cad(), "suppressed")
        placement = beside(store, session, scene, named)
        use = ModelUse(name=run.name, revision=revision, placement=placement)
        return SetModels(models={next_model_id(): use}, states=states)

    return editing.edit_with(store, review_id, change)


def beside(store: Store, session: Session, scene: Scene, other: Assembly) -> Placement:
    """To the right of what is shown, standing on the same height."""
    there = model_points(arranged_assembly(store, session, scene), scene)
    own = np.concatenate([other.corners(part) for part in other.parts()])
    if not len(there):
        return Placement()
    width = float(np.ptp(own[:, 0]))
    shift = (
        float(there[:, 0].max() - own[:, 0].min()) + GAP * width,
        float((there[:, 1].min() + there[:, 1].max() - own[:, 1].min() - own[:, 1].max()) / 2),
        float(there[:, 2].min() - own[:, 2].min()),
    )
    return Placement(shift=tuple(round(value, 3) for value in shift))


def put_piece(store: Store, review_id: str, piece: Piece, model: str | None = None) -> Edited:
    """Make a piece of context, or (with a model's id) give one another size. Raises NotFound, Refused."""

    def change(session: Session, scene: Scene) -> SetModels:
        before = scene.models.get(model) if model else None
        if model and (before is None or before.piece is None):
            raise NotFound("That piece is not in this review any more.")
        key = model or next_model_id()
        if before is None:
            uid = "p" + new_id()
            points = model_points(arranged_assembly(store, session, scene), scene)
            use = ModelUse(name=PIECE_NAMES[piece.kind], revision="", placement=where(piece, points), piece=piece)
        else:
            uid = assembly_of(store, session, before.revision).occurrences[0].uid
            use = before
        assembly, block = piece_assembly(piece, uid, use.name)
        blobs.put_bytes(session, block, "application/octet-stream")
        revision = keep_revision(session, assembly, "", None)
        return SetModels(models={key: use.model_copy(update={"revision": revision, "piece": piece})})

    return editing.edit_with(store, review_id, change)


def where(piece: Piece, points: np.ndarray) -> Placement:
    """A wall behind what is shown, a table top or plinth under it, a box to its left."""
    if not len(points):
        return Placement()
    low, high = points.min(axis=0), points.max(axis=0)
    middle = (low + high) / 2
    width, depth, height = piece.size
    gap = 0.02 * float(np.linalg.norm(high - low))
    place = {
        "wall": (middle[0], high[1] + gap + depth / 2, low[2]),
        "table top": (middle[0], middle[1], low[2] - height),
        "plinth": (middle[0], middle[1], low[2] - height),
        "box": (low[0] - gap - width / 2, middle[1], low[2]),
    }[piece.kind]
    return Placement(shift=tuple(round(float(value), 3) for value in place))
