"""Kernels for what a user may do next, compiled while nobody waits.

Which kernel traces a picture follows from the kinds of surface in it. Giving a part a kind that was not there, the
first glass or the first brushed metal, needs another one, and compiling that takes seconds. Once compiled, a kernel
lies in Dr.Jit's cache on disk, where every process of this machine finds it.
"""

from __future__ import annotations

from collections.abc import Iterable

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.surface.table import Kinds
from usual_lamp.core.trace.world.world import World, emission, lets_through


def likely_next(world: World, samples: Iterable[Appearance]) -> list[Appearance]:
    """One sample for each kernel that the world would need if a part wore it, that which most samples need first."""
    groups: dict[str, list[Appearance]] = {}
    for sample in samples:
        groups.setdefault(kernel_with(world, sample), []).append(sample)
    groups.pop(kernel_with(world), None)
    return [found[0] for found in sorted(groups.values(), key=len, reverse=True)]


def kernel_with(world: World, added: Appearance | None = None) -> str:
    """What decides which kernel traces a world, as it would be if a part wore one more appearance."""
    more = [added] if added else []
    kinds, textures = world.table.has, [texture for appearance in more for texture in appearance.textures]
    for appearance in more:
        kinds |= Kinds.of(appearance.params)
    worn = world.pictures
    targets = {texture.target for texture in textures} | (worn.targets if worn else set())
    found = (
        kinds,
        (world.has_floor, world.has_nested, world.has_instances, world.has_cards, world.has_ground),
        len(world.floor_light.panels),
        world.has_clear or any(map(lets_through, more)) or "opacity" in targets,
        world.glow is not None or any(emission(appearance).any() for appearance in more),
        (
            world.lamps is not None,
            world.distant is not None,
            world.groups.kept,
            world.behind.kind,
            world.behind.grounded,
        ),
        world.lamps is not None and world.lamps.profiles.any,
        tuple(sorted(targets)),
        bool(textures) or (worn is not None and worn.by_coordinates),
        any(texture.beneath_coat for texture in textures) or (worn is not None and worn.beneath_coat),
        worn is not None and (worn.prints, worn.foils, worn.wraps),
        any(texture.mapping == "machined" for texture in textures) or (worn is not None and worn.machined),
        bool(textures) or worn is not None,
    )
    return repr(found)


def wearing(inputs: TraceInputs, added: Appearance) -> TraceInputs:
    """The same scene with its first part in one more appearance."""
    first, *others = inputs.parts
    dressed = first.model_copy(update={"appearance": len(inputs.appearances)})
    return inputs.model_copy(update={"parts": [dressed, *others], "appearances": [*inputs.appearances, added]})
