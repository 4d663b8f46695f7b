"""From what use cases return to what goes over the wire."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.camera import white_matrix
from usual_lamp.core.scene import model_points, resolve_part
from usual_lamp.service.editing import Edited
from usual_lamp.web import models


def model(assembly: Assembly, file_name: str) -> models.Model:
    return models.Model(
        name=assembly.name,
        file_name=file_name,
        source_units=assembly.source_units,
        chord=assembly.chord,
        angle=assembly.angle,
        warnings=assembly.warnings,
        hidden_in_cad=assembly.hidden_in_cad(),
        nodes=[
            models.Node(
                uid=node.uid,
                parent=node.parent,
                name=node.name,
                definition=node.definition,
                world=assembly.world[node.uid].ravel().tolist() if node.definition else None,
            )
            for node in assembly.occurrences
        ],
        definitions={
            key: models.Definition(key=key, name=d.name, mesh=d.mesh, triangles=d.triangles, bounds=d.bounds)
            for key, d in assembly.definitions.items()
        },
    )


def standing(edited: Edited) -> models.Standing:
    appearances: dict[str, Appearance] = dict(edited.scene.appearances)
    worn = {}
    for part in edited.assembly.parts():
        found = resolve_part(edited.assembly, edited.scene, part)
        for appearance in (found.appearance, *found.faces.values()):
            appearances.setdefault(appearance.id, appearance)
        worn[part.uid] = models.Worn(
            appearance=found.appearance.id,
            why=found.why,
            faces={index: a.id for index, a in found.faces.items() if a.id != found.appearance.id},
        )
    points = model_points(edited.assembly, edited.scene)
    size = tuple(float(v) for v in np.ptp(points, axis=0)) if len(points) else None
    return models.Standing(
        seq=edited.seq,
        can_undo=edited.can_undo,
        can_redo=edited.can_redo,
        scene=edited.scene,
        worn=worn,
        appearances=appearances,
        size=size,  # type: ignore[arg-type]
        floor=float(points[:, 2].min()) if len(points) else 0.0,
        whites={key: white_matrix(shot.white).ravel().tolist() for key, shot in edited.scene.shots.items()},
    )
