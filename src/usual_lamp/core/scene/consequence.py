"""What an edit would change before it is made: how many parts, and which of those meant keep something of their own."""

from __future__ import annotations

from pydantic import BaseModel, Field

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene.document import owner_of
from usual_lamp.core.scene.edits import Assign, BaseEdit, apply_edit
from usual_lamp.core.scene.resolved import ResolvedScene


class Consequence(BaseModel):
    """What an edit would change."""

    changing: list[str] = Field(description="parts that would look different, by uid")
    meant: int = Field(description="parts that the edit names, at whatever level")
    keeping: list[str] = Field(description="parts that it names but that keep something of their own, nearer to them")
    faces: int = Field(description="faces of the named parts that keep something of their own")


def consequence(resolved: ResolvedScene, edit: BaseEdit) -> Consequence:
    """What an edit would change, in the look that it is for. Raises EditRefused."""
    assembly, scene = resolved.assembly, resolved.scene
    after, _ = apply_edit(scene, edit, assembly.by_uid.keys())
    look = edit.look if isinstance(edit, Assign) else None
    before = resolved if look in (None, resolved.look) else ResolvedScene(assembly, scene, look)
    then = before.after(after)[0] if before.look == after.look else ResolvedScene(assembly, after, look)
    named = reached(assembly, edit) if isinstance(edit, Assign) else {}
    changing, keeping, faces = [], [], 0
    for part in assembly.parts():
        old, new = before.worn[part.uid], then.worn[part.uid]
        differs = old.appearance != new.appearance or old.faces != new.faces
        if differs:
            changing.append(part.uid)
        if part.uid in named:
            key = named[part.uid]
            nearer = [layer for layer in new.layers if layer.key]
            if "#" not in key and nearer and nearer[0].key != key and not differs:
                keeping.append(part.uid)
            faces += sum("#" not in key and layer.key != key for _, layer in new.own_faces)
    return Consequence(changing=changing, meant=len(named), keeping=keeping, faces=faces)


def reached(assembly: Assembly, edit: Assign) -> dict[str, str]:
    """Parts that the keys of an assignment reach, each with its key."""
    found: dict[str, str] = {}
    for key in edit.assignments:
        owner = owner_of(key)
        node = assembly.by_uid.get(owner)
        if node is None:
            found |= {part.uid: key for part in assembly.parts() if part.model == owner}
        elif key.startswith("="):
            found |= {part.uid: key for part in assembly.parts() if part.definition == node.definition}
        elif node.definition is None:
            found |= {part.uid: key for part in assembly.below(owner)}
        else:
            found[owner] = key
    return found
