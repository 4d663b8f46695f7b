"""The scene a new review starts with, looked at once more: what preflight would say of its backdrop is mended."""

from __future__ import annotations

from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.scene.document import Backdrop, Scene
from usual_lamp.core.scene.edits import apply_edit
from usual_lamp.core.scene.preflight import Ready
from usual_lamp.core.scene.preflight.of_camera import backdrop
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.resolved import ResolvedScene


def with_outline(assembly: Assembly, scene: Scene) -> Scene:
    """The scene with a backdrop against which the product keeps its outline, as far as its colours tell.

    One that somebody made for new reviews is taken as it is."""
    if scene.lighting.backdrop != Backdrop():
        return scene
    check = backdrop(Ready(ResolvedScene(assembly, scene), DEFAULT_SHOT, _no_mesh, {}))
    if check is None or check.fix is None or check.fix.edit is None:
        return scene
    return apply_edit(scene, check.fix.edit, assembly.by_uid)[0]


def _no_mesh(name: str) -> Mesh:
    raise LookupError(f"no mesh is needed for a backdrop, {name} was asked for")
