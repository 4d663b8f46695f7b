"""Tessellation that cannot be seen: the chord tolerance from the shot, per part by its distance.

A silhouette edge that lies a chord tolerance c off its curve is c / p pixels off in the picture, where p is the size
of a pixel at the part's distance. Shading does not depend on the chord, since normals come from the exact surface.
"""

from __future__ import annotations

import numpy as np

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.resolution import shown_parts
from usual_lamp.core.scene.shot import Shot

PIXELS = 0.5
"""Most that a silhouette may be off."""
FREE_ANGLE = 0.9
"""Radians: only keeps a round feature from becoming a triangle where the chord would allow it."""
LEAST, MOST = 0.0005, 50.0
"""mm."""
MARGIN = 0.7
"""Of the tolerance that is asked of the kernel, which treats it as a request and overshoots."""


def chords_for_shot(assembly: Assembly, scene: Scene, shot: Shot) -> dict[str, float]:
    """Chord in mm by exact shape, for every shown part that has one; the nearest occurrence decides."""
    chords: dict[str, float] = {}
    for part in shown_parts(assembly, scene):
        shape = assembly.definition_of(part).shape
        if shape is not None:
            chord = MARGIN * PIXELS * pixel_size(shot, assembly.corners(part)) / _scale(assembly.world[part.uid])
            chords[shape] = min(chords.get(shape, MOST), float(np.clip(chord, LEAST, MOST)))
    return {shape: float(f"{chord:.3g}") for shape, chord in chords.items()}


def pixel_size(shot: Shot, corners: np.ndarray) -> float:
    """mm across one pixel at the nearest of some points that lie before the camera; the shot at its output size."""
    aspect = shot.width / shot.height
    across, _ = shot.camera.half_tangents(aspect)
    depth = shot.camera.project(corners, aspect)[:, 2]
    nearest = float(depth.min())
    if shot.camera.parallel:
        nearest = float(np.linalg.norm(np.subtract(shot.camera.target, shot.camera.position)))
    if nearest <= 0:
        # Around or behind the camera: what there is of it to see lies no nearer than its far side tells.
        nearest = max(float(depth.max()) * 0.05, 1.0)
    return 2 * across * nearest / shot.width


def _scale(matrix: np.ndarray) -> float:
    return float(np.cbrt(abs(np.linalg.det(matrix[:3, :3])))) or 1.0
