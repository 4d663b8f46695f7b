import { useEffect } from "react";
import { Matrix4, Quaternion, Vector3 } from "three";
import type { Edit, Model, Standing } from "../api/client";
import { useDesk } from "../state/deskStore";
import { lightingOf, stands } from "../state/lighting";
import { frameOf, layingEdit, lookOf } from "./laying";
import { layingGuide } from "./layingGuide";
import { extentOf, frameAround, nodeToMove, pivotOf } from "./moving";
import { IN_PLACE, placementMatrix, placementOf } from "./placement";
import type { Stage } from "./stage";

/** Puts the handles on what is chosen: a whole model moves as such, anything less is moved for the picture. */
export function useHandles(
  stage: Stage | undefined,
  ready: string | undefined,
  model: Model,
  standing: Standing,
  shotId: string,
  edit: ((change: Edit) => void) | undefined,
) {
  const wanted = useDesk((state) => state.handles);
  const chosen = useDesk((state) => state.chosen);
  const layingId = useDesk((state) => state.layingHandles);
  const lampId = useDesk((state) => (state.sheet === "lights" && !state.pointing ? state.light : undefined));
  useEffect(() => {
    if (!stage || !edit || ready !== model.arrangement) return;
    const laying = layingId && lookOf(standing).layings?.[layingId];
    const laid = laying && frameOf(model, laying);
    if (laying && laid) {
      const { kind, radius = 10, parts } = laying;
      const size = Math.max(...(extentOf(model, new Set(Object.keys(parts))) ?? [10]));
      stage.handle({
        uids: new Set(),
        frame: laid,
        guide: layingGuide(kind, size, radius),
        onRelease: (moved) => {
          const frame = moved.multiply(laid);
          edit(layingEdit(model, standing, layingId, { kind, radius, frame, uids: Object.keys(parts) }));
        },
      });
      return () => stage.handle(undefined);
    }
    const target = lampId
      ? lampTarget(standing, shotId, lampId)
      : wanted
        ? targetOf(model, standing, chosen)
        : undefined;
    if (!target) {
      stage.handle(undefined);
      return;
    }
    stage.handle({
      uids: target.uids,
      frame: new Matrix4().makeTranslation(target.middle),
      onRelease: (moved) => edit(target.edit(moved)),
    });
    return () => stage.handle(undefined);
  }, [stage, ready, wanted, layingId, lampId, chosen, model, standing, shotId, edit]);
}

/** The selected lamp, where it has a place: shifting it keeps its aim, turning it does not. */
function lampTarget(standing: Standing, shotId: string, id: string): Target | undefined {
  const { id: lighting, lighting: light } = lightingOf(standing, shotId);
  const lamp = light.lamps[id];
  if (!stands(lamp)) return undefined;
  const position = new Vector3(...lamp.position);
  return {
    uids: new Set(),
    middle: position,
    edit: (moved) => {
      const next = position.clone().applyMatrix4(moved);
      const isTurned = new Quaternion().setFromRotationMatrix(moved).angleTo(new Quaternion()) > 1e-4;
      const way = new Vector3(...lamp.target).sub(position).transformDirection(moved);
      const aim = isTurned
        ? next.clone().addScaledVector(way, position.distanceTo(new Vector3(...lamp.target)))
        : new Vector3(...lamp.target);
      const mm = (v: Vector3) => v.toArray().map((c) => Number(c.toFixed(1))) as [number, number, number];
      return {
        kind: "set_lamps",
        id: lighting,
        lamps: { [id]: { ...lamp, position: mm(next), target: mm(aim) } },
      };
    },
  };
}

interface Target {
  uids: ReadonlySet<string>;
  middle: Vector3;
  edit: (moved: Matrix4) => Edit;
}

function targetOf(model: Model, standing: Standing, chosen: ReadonlySet<string>): Target | undefined {
  const parts = model.nodes.filter((node) => node.definition);
  for (const [id, use] of Object.entries(standing.scene.models)) {
    const own = parts.filter((node) => node.model === id);
    if (own.length !== chosen.size || !own.every((node) => chosen.has(node.uid))) continue;
    const pivot = model.models.find((line) => line.id === id)!.pivot;
    const before = placementMatrix(use.placement);
    return {
      uids: chosen,
      middle: new Vector3(...pivot).applyMatrix4(before),
      edit: (moved) => ({
        kind: "set_models",
        models: { [id]: { ...use, placement: placementOf(moved.multiply(before), pivot) } },
        states: {},
        moves: {},
        decals: {},
      }),
    };
  }
  const node = nodeToMove(model, chosen);
  if (!node) return undefined;
  const around = frameAround(model, standing, node);
  const move = standing.scene.moves?.[node.uid] ?? { ...IN_PLACE, pivot: pivotOf(model, standing, node) };
  return {
    uids: chosen,
    middle: node.middle,
    // What was dragged in the review's frame, told in the frame around the node.
    edit: (moved) => ({
      kind: "move_parts",
      moves: {
        [node.uid]: placementOf(
          around.clone().invert().multiply(moved).multiply(around).multiply(placementMatrix(move)),
          move.pivot,
        ),
      },
    }),
  };
}
