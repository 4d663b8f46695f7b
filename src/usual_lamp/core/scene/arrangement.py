"""The models of a review, put where the scene says, as one assembly."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping

import numpy as np

from usual_lamp.core.assembly import Assembly, Occurrence, PartDefinition
from usual_lamp.core.assembly.model import Matrix
from usual_lamp.core.scene.document import Scene


def arrangement_key(scene: Scene) -> str:
    """Names what `arranged` depends on: models, their revisions and places, and what was moved."""
    facts = {
        "models": {key: use.model_dump() for key, use in scene.models.items()},
        "moves": {uid: move.model_dump() for uid, move in sorted(scene.moves.items())},
    }
    return hashlib.sha256(json.dumps(facts).encode()).hexdigest()[:16]


def arranged(scene: Scene, assemblies: Mapping[str, Assembly]) -> Assembly:
    """One assembly of every model of the scene. `assemblies` holds each model's own, by the model's id.

    A move turns and shifts a node and all below it; one given further up acts on top of those below. The model's own
    placement comes last.
    """
    several = len(scene.models) > 1
    first = assemblies[next(iter(scene.models))]
    definitions: dict[str, PartDefinition] = {}
    nodes: list[Occurrence] = []
    warnings: list[str] = []
    for model in scene.models:
        own = assemblies[model]
        prefix = f"{model}." if several else ""
        for key, definition in own.definitions.items():
            definitions[prefix + key] = definition.model_copy(update={"key": prefix + key})
        nodes += _placed(own, scene, model, prefix)
        warnings += own.warnings
    return first.model_copy(update={"definitions": definitions, "occurrences": nodes, "warnings": warnings})


def _placed(own: Assembly, scene: Scene, model: str, prefix: str) -> list[Occurrence]:
    root = scene.models[model].placement.matrix
    nodes = []
    for node in own.occurrences:
        local: Matrix = np.array(node.placement, dtype=np.float64).reshape(4, 4)
        move = scene.moves.get(node.uid)
        if move is not None:
            # The move is told in the model's frame; here it acts inside the parent's.
            parent: Matrix = np.eye(4) if node.parent is None else own.world[node.parent]
            local = np.linalg.inv(parent) @ move.matrix @ parent @ local
        if node.parent is None:
            local = root @ local
        change: dict[str, object] = {"placement": local.ravel().tolist(), "model": model}
        if node.definition is not None:
            change["definition"] = f"{prefix}{node.definition}"
        nodes.append(node.model_copy(update=change))
    return nodes
