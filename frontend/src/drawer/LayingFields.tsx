import type { Edit, Model, Standing } from "../api/client";
import { useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { Button, Choice, LENGTH, NumberField } from "../ui/controls";
import { firstFrame, frameOf, type LayingKind, layingEdit, layingOf, lookOf } from "../viewport/laying";
import { placementMatrix, placementOf } from "../viewport/placement";
import * as t from "../words/texts/drawer/LayingFields";
import { PlacementFields } from "./model/PlacementFields";
import { Section } from "./model/Section";

interface Props {
  model: Model;
  standing: Standing;
  uids: string[];
  edit: (change: Edit) => void;
}

const KINDS: [LayingKind | "", string][] = [
  ["", t.eachFaceByIts],
  ["plane", t.alongOneDirection],
  ["cylinder", t.roundAnAxis],
  ["box", t.fromSixSides],
];

/** How the pictures of the chosen parts lie: by each face, or in a frame that all of them share. */
export function LayingFields({ model, standing, uids, edit }: Props) {
  const handled = useDesk((state) => state.layingHandles);
  const id = layingOf(standing, uids);
  const laying = id === undefined ? undefined : lookOf(standing).layings![id]!;
  const frame = laying && frameOf(model, laying);
  const parts = laying ? Object.keys(laying.parts) : uids;
  const look = standing.scene.look;
  const choose = (kind: LayingKind | "") => {
    if (kind === "") {
      useDesk.setState({ layingHandles: undefined });
      if (id !== undefined) edit({ kind: "lay_pictures", look, layings: { [id]: null } });
      return;
    }
    const next = id ?? `laying-${crypto.randomUUID().slice(0, 8)}`;
    edit(
      layingEdit(model, standing, next, { kind, ...firstFrame(model, new Set(parts), kind), uids: parts }),
    );
    useDesk.setState({ layingHandles: next, handles: false });
  };
  const set = (change: { frame?: typeof frame; radius?: number }) => {
    if (id === undefined || !laying || !frame) return;
    const { kind, radius = 10 } = laying;
    edit(layingEdit(model, standing, id, { kind, radius, frame, uids: parts, ...change }));
  };
  const shown = KINDS.find(([kind]) => kind === (laying?.kind ?? ""))![1];
  return (
    <Section title={t.texturePlacement} fact={shown}>
      <Choice
        label={t.picturesLie}
        value={laying?.kind ?? ""}
        choices={KINDS}
        onChange={(kind) => choose(kind as LayingKind | "")}
      />
      {id !== undefined && laying && frame && (
        <>
          <PlacementFields
            value={placementOf(frame, [0, 0, 0])}
            pivot={[0, 0, 0]}
            onCommit={(value) => set({ frame: placementMatrix({ ...value, pivot: [0, 0, 0] }) })}
          />
          {laying.kind === "cylinder" && (
            <div className="flex items-center justify-between">
              <span>{t.trueSizeAtRadius}</span>
              <span className="w-20">
                <NumberField
                  label={t.radiusOfTrueSize}
                  value={laying.radius ?? 10}
                  digits={2}
                  unit={LENGTH}
                  onCommit={(radius) => set({ radius: Math.min(1e5, Math.max(0.05, radius)) })}
                />
              </span>
            </div>
          )}
          <div className="flex gap-1.5">
            <Button
              aria-pressed={handled === id}
              onClick={() =>
                useDesk.setState({ layingHandles: handled === id ? undefined : id, handles: false })
              }
            >
              {handled === id ? t.putTheHandlesAway : t.handles}
            </Button>
            <Button onClick={() => choose("")}>{t.reset}</Button>
          </div>
          <p className="why">
            {parts.length > 1 ? t.oneFrameForA(countParts(parts.length)) : t.selectSeveralPartsFirst}
          </p>
        </>
      )}
    </Section>
  );
}
