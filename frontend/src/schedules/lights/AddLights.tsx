import type { Edit, LampKind, LampSet, Lighting } from "../../api/client";
import { newLamp, newLampSet, readPhotometry } from "../../api/lighting";
import { toast } from "../../api/toast";
import { cameraOf } from "../../state/camera";
import { useDesk } from "../../state/deskStore";
import { freshId } from "../../state/lighting";
import { FileButton } from "../../ui/FileButton";
import * as t from "../../words/texts/schedules/lights/AddLights";

interface Props {
  reviewId: string;
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const KINDS: [LampKind, string][] = [
  ["panel", t.panel],
  ["round panel", t.roundPanel],
  ["tube", t.tube],
  ["spot", t.spot],
  ["point", t.point],
  ["distant", t.sun],
  ["field", t.fieldOfLights],
  ["card", t.card],
];
const SETS: [LampSet, string][] = [
  ["key, fill and rim", t.keyFillAndRim],
  ["two strips", t.twoStripsForShiny],
  ["soft top", t.softLightFromAbove],
  ["edges", t.edgeLightOnDark],
];

/** Adds lamps that are sized to the product and turned to the view, one by one or as a starter set. */
export function AddLights({ reviewId, id, lighting, edit }: Props) {
  const camera = () => {
    const { view } = useDesk.getState();
    return view && cameraOf(view);
  };
  const fail = (problem: Error) => toast.error(problem.message);
  const add = (kind: LampKind) => {
    const from = camera();
    if (!from) return;
    newLamp(reviewId, kind, from).then((lamp) => {
      const key = freshId(lighting.lamps, `lamp-${crypto.randomUUID().slice(0, 8)}`);
      edit({ kind: "set_lamps", id, lamps: { [key]: lamp } });
      useDesk.setState({ light: key });
    }, fail);
  };
  const addFile = async (file: File) => {
    const from = camera();
    if (!from) return;
    try {
      const { lamp, notes } = await readPhotometry(reviewId, await file.text(), from);
      const key = freshId(lighting.lamps, `lamp-${crypto.randomUUID().slice(0, 8)}`);
      edit({ kind: "set_lamps", id, lamps: { [key]: lamp } });
      useDesk.setState({ light: key });
      for (const note of notes) toast(note);
    } catch (problem) {
      fail(problem as Error);
    }
  };
  const addSet = (name: LampSet) => {
    const from = camera();
    if (!from) return;
    newLampSet(reviewId, name, from).then(({ lamps, brightness }) => {
      edit({ kind: "set_lighting", id, lighting: { ...lighting, lamps, brightness, on: true } });
      useDesk.setState({ light: Object.keys(lamps)[0]! });
    }, fail);
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3 py-2">
      {KINDS.map(([kind, label]) => (
        <button
          key={kind}
          type="button"
          className="cursor-pointer font-medium text-mark hover:underline"
          onClick={() => add(kind)}
        >
          + {label}
        </button>
      ))}
      <FileButton label={t.photometricFile} accept=".ies,.IES" onFile={addFile}>
        {t.photometricFile2}
      </FileButton>
      <select
        aria-label={t.starterSet}
        className="h-7 cursor-pointer rounded-md border border-rule-strong bg-white px-1 text-mark"
        value=""
        onChange={(event) => addSet(event.target.value as LampSet)}
      >
        <option value="" disabled>
          {t.starterSet2}
        </option>
        {SETS.map(([name, label]) => (
          <option key={name} value={name}>
            {label}
          </option>
        ))}
      </select>
    </div>
  );
}
