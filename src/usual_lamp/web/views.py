"""From what use cases return to what goes over the wire."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.appearance.shaded import shaded
from usual_lamp.core.assembly import Assembly, Occurrence, PartDefinition
from usual_lamp.core.assembly.kinds import kinds_by_shape
from usual_lamp.core.assembly.laying import Laid
from usual_lamp.core.assembly.same_shapes import same_shapes
from usual_lamp.core.camera import Finish, SharpRange, sharp_range, white_matrix
from usual_lamp.core.picture.burn_out import burns_from
from usual_lamp.core.scene import Layer, Resolved, Scene, arrangement_key, imported_look
from usual_lamp.core.scene.floor_plane import LEVEL, floor_plane
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.touched import differing
from usual_lamp.service.editing import Edited, Step
from usual_lamp.service.resolving import Change
from usual_lamp.service.revisions import Proposal
from usual_lamp.web import schemas


def model(assembly: Assembly, lines: list[schemas.ModelLine], arrangement: str) -> schemas.Model:
    return schemas.Model(
        arrangement=arrangement,
        name=assembly.name,
        file_name=lines[0].file_name if lines else "",
        models=lines,
        source_units=assembly.source_units,
        chord=assembly.chord,
        angle=assembly.angle,
        warnings=assembly.warnings,
        hidden_in_cad=assembly.hidden_in_cad(),
        nodes=[_node(assembly, node) for node in assembly.occurrences],
        definitions={key: _definition(assembly, key, definition) for key, definition in assembly.definitions.items()},
    )


def _node(assembly: Assembly, node: Occurrence) -> schemas.Node:
    shared = assembly.definition_of(node).properties if node.definition else {}
    whole = imported_look(assembly, node)[0] if node.definition else None
    return schemas.Node(
        uid=node.uid,
        parent=node.parent,
        name=node.name,
        definition=node.definition,
        model=node.model,
        world=assembly.world[node.uid].ravel().tolist() if node.definition else None,
        layers=node.layers,
        color=whole.id if whole else None,
        properties=shared | node.properties,
    )


def face_colors(assembly: Assembly) -> dict[str, dict[int, str]]:
    """Ids of the colours that CAD gave to faces, by part and face."""
    by = {part.uid: imported_look(assembly, part)[1] for part in assembly.parts()}
    return {uid: {face: look.id for face, look in faces.items()} for uid, faces in by.items() if faces}


def _definition(assembly: Assembly, key: str, d: PartDefinition) -> schemas.Definition:
    return schemas.Definition(
        key=key,
        name=d.name,
        mesh=d.mesh,
        triangles=d.triangles,
        bounds=d.bounds,
        volume=d.volume,
        material=d.material,
        exact=d.shape is not None,
        chord=d.chord or assembly.chord,
        angle=d.angle or assembly.angle,
        deviation=d.deviation,
        defects=d.defects,
        faces=[face.signature for face in d.faces],
        same_shape=same_shapes(assembly)[key],
        kind=kinds[key].kind if (kinds := kinds_by_shape(assembly)) and key in kinds else None,
    )


def report(found: Proposal) -> schemas.RevisionReport:
    """The pairs with the words that a person reads, worst first."""

    def known(assembly: Assembly, uid: str) -> schemas.ReportPart:
        part = assembly.by_uid[uid]
        path = " / ".join(reversed([node.name for node in assembly.ancestors(uid)]))
        definition = assembly.definition_of(part)
        return schemas.ReportPart(
            uid=uid, name=part.name, path=path, mesh=definition.mesh, world=assembly.world[uid].ravel().tolist()
        )

    def words(assembly: Assembly, uid: str | None) -> schemas.ReportPart | None:
        return None if uid is None else known(assembly, uid)

    return schemas.RevisionReport(
        id=found.run_id,
        file_name=found.file_name,
        pairs=[
            schemas.ReportPair(
                new=words(found.new, pair.new), old=words(found.old, pair.old),
                kind=pair.kind, confidence=pair.confidence, because=pair.because, by_hand=pair.by_hand,
                left_behind=found.left_behind.get(pair.old or "", []) if pair.new is None else [],
            )
            for pair in found.pairs
        ],
        decals=[
            schemas.ReportDecal(
                name=was.name, part=found.old.by_uid[was.part].name, fate=one.fate, shift=one.shift,
                old=known(found.old, was.part), new=known(found.new, found.partners[was.part]), was=was, lies=one.decal,
            )
            for was, one in found.decals
        ],
    )  # fmt: skip


class _Layers:
    """What lies on parts, told once for all parts that share it: thousands of them are told after every edit."""

    def __init__(self) -> None:
        self.known: dict[tuple[str, str, str], schemas.WornLayer] = {}

    def tell(self, layer: Layer) -> schemas.WornLayer:
        key = (layer.why, layer.key, layer.appearance.id)
        if key not in self.known:
            self.known[key] = schemas.WornLayer(why=layer.why, key=layer.key, appearance=layer.appearance.id)
        return self.known[key]


def _burns(appearances: dict[str, Appearance], scene: Scene) -> dict[str, dict[str, float]]:
    """By appearance and shot."""
    found: dict[str, dict[str, float]] = {}
    for key, appearance in appearances.items():
        if appearance.params.emission_luminance > 0:
            by_shot = {
                id: burns_from(appearance.params.emission_color, shot.finish) for id, shot in scene.shots.items()
            }
            found[key] = {id: luminance for id, luminance in by_shot.items() if luminance is not None}
    return found


def _laid(how: Laid | None) -> str | None:
    if how is None:
        return None
    return f"{how.kind},{how.radius:.9g},{','.join(f'{value:.9g}' for value in how.matrix)}"


def step(of: Step | None) -> schemas.Step | None:
    """An edit that undo or redo would act on."""
    return None if of is None else schemas.Step(words=of.words, tab=of.tab)


def standing(edited: Edited, resolved: ResolvedScene) -> schemas.Standing:
    """The whole of it, in the look in which it was resolved."""
    appearances: dict[str, Appearance] = dict(edited.scene.appearances)
    for found in resolved.worn.values():
        for appearance in _worn_by(found):
            appearances.setdefault(appearance.id, appearance)
    return schemas.Standing(
        seq=edited.seq,
        undoes=step(edited.undoes),
        redoes=step(edited.redoes),
        scene=edited.scene,
        arrangement=arrangement_key(edited.scene),
        worn=_worn(resolved, resolved.worn),
        appearances=appearances,
        shaded={name: shaded(appearance.params) for name, appearance in appearances.items()},
        size=_size(resolved),
        floor=_floor(resolved),
        tilted=_tilted(resolved),
        burns=_burns(appearances, edited.scene),
        whites=_whites(edited.scene),
        sharp=_sharp(edited.scene),
    )


def change(edited: Edited, known: int, found: Change) -> schemas.StandingChange:
    """What differs from the standing that somebody has."""
    now, before = found.resolved, found.known
    appearances = {name: now.scene.appearances[name] for name in _renewed(before.scene, now.scene)}
    for uid in found.changed:
        for appearance in _worn_by(now.worn[uid]):
            appearances.setdefault(appearance.id, appearance)
    # A shot that is developed otherwise lets every light burn out at another luminance.
    same = _finishes(now.scene) == _finishes(before.scene)
    return schemas.StandingChange(
        base=known,
        seq=edited.seq,
        undoes=step(edited.undoes),
        redoes=step(edited.redoes),
        patch=found.patch,
        worn=_worn(now, found.changed),
        appearances=appearances,
        shaded={name: shaded(appearance.params) for name, appearance in appearances.items()},
        size=_size(now),
        floor=_floor(now),
        tilted=_tilted(now),
        burns=_burns(appearances if same else now.scene.appearances, now.scene),
        whites=_whites(now.scene),
        sharp=_sharp(now.scene),
    )


def _renewed(before: Scene, now: Scene) -> set[str]:
    """Ids of the review's appearances that are new or have other values."""
    return differing(before.appearances, now.appearances) & now.appearances.keys()


def _worn_by(found: Resolved) -> Iterator[Appearance]:
    """All that a part wears, and what lies beneath."""
    yield from (layer.appearance for layer in found.layers)
    yield from found.faces.values()


def _worn(resolved: ResolvedScene, uids: Iterable[str]) -> dict[str, schemas.Worn]:
    layers, told = _Layers(), {}
    for uid in uids:
        found = resolved.worn[uid]
        # Built from what was checked already: thousands of these may be made for an answer.
        told[uid] = schemas.Worn.model_construct(
            appearance=found.appearance.id,
            why=found.why,
            faces={index: a.id for index, a in found.faces.items() if a.id != found.appearance.id},
            layers=[layers.tell(one) for one in found.layers] if len(found.layers) > 1 or found.layers[0].key else [],
            own_faces={index: layers.tell(one) for index, one in found.own_faces},
            laid=_laid(resolved.resolver.laid.get(uid)),
        )
    return told


def _size(resolved: ResolvedScene) -> tuple[float, float, float] | None:
    if resolved.bounds is None:
        return None
    x, y, z = (float(value) for value in resolved.bounds.size)
    return x, y, z


def _floor(resolved: ResolvedScene) -> float:
    return 0.0 if resolved.bounds is None else float(resolved.bounds.low[2])


def _tilted(resolved: ResolvedScene) -> dict[str, schemas.TiltedFloor]:
    if resolved.bounds is None:
        return {}
    asked = {id: one for id, one in resolved.scene.lightings.items() if one.floor_finish.tilts}
    planes = {id: floor_plane(resolved, one) for id, one in asked.items()}
    return {id: schemas.TiltedFloor(up=p.up, height=p.height) for id, p in planes.items() if p.up != LEVEL}


def _whites(scene: Scene) -> dict[str, list[float]]:
    return {key: white_matrix(shot.white).ravel().tolist() for key, shot in scene.shots.items()}


def _finishes(scene: Scene) -> dict[str, Finish]:
    return {key: shot.finish for key, shot in scene.shots.items()}


def _sharp(scene: Scene) -> dict[str, SharpRange]:
    """Of the shots that do not show everything sharp."""
    found = {key: sharp_range(shot.camera) for key, shot in scene.shots.items()}
    return {key: sharp for key, sharp in found.items() if sharp is not None}
