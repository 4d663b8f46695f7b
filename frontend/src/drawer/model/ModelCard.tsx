import { RotateCw, Trash2 } from "lucide-react";
import { Matrix4, Quaternion, Vector3 } from "three";
import { type AssemblyActions, type Rest, useRests } from "../../api/assembly";
import type { Edit, Model, ModelUse, Placement, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, IconButton, LENGTH, NumberField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { placementMatrix } from "../../viewport/placement";
import { Sketch } from "../../viewport/SketchPicture";
import { sizeWords } from "../../words/length";
import { decimals, percent } from "../../words/numbers";
import * as t from "../../words/texts/drawer/model/ModelCard";
import { PlacementFields } from "./PlacementFields";
import { Section } from "./Section";

interface Props {
  reviewId: string;
  id: string;
  model: Model;
  standing: Standing;
  assembly: AssemblyActions;
  edit: (change: Edit) => void;
}

/** One model of the review: where and how it stands. A piece of context also has its sizes here. */
export function ModelCard({ reviewId, id, model, standing, assembly, edit }: Props) {
  const use = standing.scene.models[id]!;
  const line = model.models.find((one) => one.id === id);
  const placed = [...use.placement.turn, ...use.placement.shift].some(Boolean);
  const only = Object.keys(standing.scene.models).length === 1;
  const place = (placement: Placement) =>
    edit({ kind: "set_models", models: { [id]: { ...use, placement } }, states: {}, moves: {}, decals: {} });
  return (
    <Section
      title={only ? t.orientation : use.name}
      fact={use.piece ? sizeWords(use.piece.size) : placed ? "placed" : t.asInTheFile}
    >
      {use.piece && <PieceSizes {...{ id, use, assembly }} />}
      <PlacementFields value={use.placement} pivot={line?.pivot ?? [0, 0, 0]} onCommit={place} />
      <div className="flex flex-wrap gap-1.5">
        {(["x", "y", "z"] as const).map((axis) => (
          <Hint key={axis} text={t.aQuarterTurnAbout(axis)}>
            <Button onClick={() => assembly.place(id, { axis })}>
              <RotateCw size={12} className="mr-1 inline" />
              90° {axis}
            </Button>
          </Hint>
        ))}
        <Button onClick={() => assembly.place(id, { floor: true })}>{t.onTheFloor}</Button>
        <Hint text={t.thenClickTheFace}>
          <Button onClick={() => useDesk.setState({ pointing: "down" })}>{t.setFaceDown}</Button>
        </Hint>
        <Hint text={t.arrowsToShiftIt} keys="M">
          <Button
            onClick={() =>
              useDesk.setState({
                handles: true,
                chosen: new Set(
                  model.nodes.filter((node) => node.definition && node.model === id).map((n) => n.uid),
                ),
              })
            }
          >
            {t.handles}
          </Button>
        </Hint>
        <Button disabled={!placed} onClick={() => assembly.place(id, { reset: true })}>
          {t.reset}
        </Button>
      </div>
      {!use.piece && <Rests {...{ reviewId, id, model, standing, assembly }} />}
      {!only && (
        <IconButton
          label={t.takeOutOfThe(use.name)}
          className="self-end"
          onClick={() =>
            edit({ kind: "set_models", models: { [id]: null }, states: {}, moves: {}, decals: {} })
          }
        >
          <Trash2 size={14} />
        </IconButton>
      )}
    </Section>
  );
}

function PieceSizes({ id, use, assembly }: { id: string; use: ModelUse; assembly: AssemblyActions }) {
  const piece = use.piece!;
  return (
    <div className="grid grid-cols-[44px_1fr_1fr_1fr] items-center gap-x-3">
      <span className="why">{t.size}</span>
      {[t.width, t.depth, t.height].map((label, k) => (
        <NumberField
          key={label}
          label={label}
          unit={LENGTH}
          value={piece.size[k]!}
          digits={0}
          onCommit={(value) => {
            const size = [...piece.size] as [number, number, number];
            size[k] = Math.min(1e5, Math.max(0.1, value));
            assembly.piece({ ...piece, size }, id);
          }}
        />
      ))}
    </div>
  );
}

const DOWN = new Vector3(0, 0, -1);

/** The attitudes in which it would come to rest on a table, as pictures. */
function Rests({ reviewId, id, model, standing, assembly }: Omit<Props, "edit">) {
  const rests = useRests(reviewId, id, model.arrangement);
  if (rests.isError) return <p className="text-stop">{rests.error.message}</p>;
  if (!rests.data) return <p className="why">{t.workingOutHowIt}</p>;
  if (rests.data.length === 0) return <p className="why">{t.itRestsInNo}</p>;
  const states = standing.scene.states;
  const back = placementMatrix(standing.scene.models[id]!.placement).invert();
  const parts = model.nodes
    .filter((node) => node.definition && node.model === id && states[node.uid] !== "suppressed")
    .map((node) => ({ mesh: model.definitions[node.definition!]!.mesh, world: node.world! }));
  const turn = (rest: Rest) =>
    new Matrix4()
      .makeRotationFromQuaternion(new Quaternion().setFromUnitVectors(new Vector3(...rest.down), DOWN))
      .multiply(back);
  return (
    <>
      <span className="cap">{t.stablePositions}</span>
      <div className="grid grid-cols-4 gap-1.5">
        {rests.data.map((rest, index) => (
          <Hint key={rest.down.join()} text={t.setItDownLike(percent(rest.share), decimals(rest.tilt))}>
            <button
              type="button"
              aria-label={t.restingAttitude(index + 1)}
              className="cursor-pointer overflow-hidden rounded-sm border border-rule bg-white hover:border-mark"
              onClick={() => assembly.place(id, { rest: rest.down })}
            >
              <Sketch parts={parts} width={60} height={48} turn={turn(rest)} alt="" />
            </button>
          </Hint>
        ))}
      </div>
    </>
  );
}
