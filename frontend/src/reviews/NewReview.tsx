import { useEffect, useState } from "react";
import type { Quality, Unit, Up } from "../api/client";
import { Button } from "../ui/controls";
import { Modal } from "../ui/Modal";
import { openOf } from "./formats";
import type { Asked } from "./upload";

interface Props {
  file?: File;
  onClose: () => void;
  onTake: (file: File, asked: Asked) => void;
}

const QUALITIES: { name: Quality; words: string }[] = [
  { name: "coarse", words: "quick, facets may show" },
  { name: "fair", words: "facets hardly show" },
  { name: "fine", words: "for large pictures" },
];

const UNITS: Unit[] = ["mm", "cm", "m", "inch"];

/** Name, and what the format leaves open: tessellation, unit, upward axis. */
export function NewReview({ file, onClose, onTake }: Props) {
  const [name, setName] = useState("");
  const [quality, setQuality] = useState<Quality>("fair");
  const [unit, setUnit] = useState<Unit>("as written");
  const [up, setUp] = useState<Up>("as written");
  useEffect(() => {
    setName(file?.name.replace(/\.\w+$/, "") ?? "");
    const asked = openOf(file?.name ?? "");
    setUnit(asked?.unitless ? "mm" : "as written");
    setUp(asked?.up ?? "as written");
  }, [file]);
  if (!file) return null;
  const open = openOf(file.name);
  const problem = !open
    ? "This format cannot be taken in. Export STEP from CAD, or a mesh as glTF, 3MF, OBJ, STL, PLY, OFF or Collada."
    : file.size === 0
      ? "The file is empty. Export it from CAD again."
      : undefined;
  return (
    <Modal title="New review" open={true} onOpen={(open) => !open && onClose()} width={400}>
      <p className="why truncate">
        {file.name} · {(file.size / 1e6).toFixed(1)} MB
      </p>
      {problem ? (
        <p className="text-stop">{problem}</p>
      ) : (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            onTake(file, { name, quality, unit, up });
            onClose();
          }}
        >
          <label className="flex flex-col gap-1">
            <span className="cap">Name</span>
            <input
              className="h-8 rounded-md border border-rule-strong bg-white px-2"
              value={name}
              maxLength={120}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          {open?.exact && (
            <>
              <span className="cap">Tessellation</span>
              <div className="flex gap-1.5" role="radiogroup" aria-label="Tessellation">
                {QUALITIES.map((choice) => (
                  <button
                    key={choice.name}
                    type="button"
                    role="radio"
                    aria-checked={quality === choice.name}
                    className={`flex-1 cursor-pointer rounded-md border px-2 py-1.5 text-left ${quality === choice.name ? "border-mark bg-mark-soft" : "border-rule hover:bg-white"}`}
                    onClick={() => setQuality(choice.name)}
                  >
                    <b className="block font-semibold capitalize">{choice.name}</b>
                    <span className="why">{choice.words}</span>
                  </button>
                ))}
              </div>
            </>
          )}
          {open && !open.exact && (
            <p className="why">A mesh comes as it is: its triangles cannot be made finer here.</p>
          )}
          {(open?.unitless || open?.up) && (
            <div className="flex gap-6">
              {open.unitless && (
                <Choice
                  label="Unit of the file"
                  value={unit}
                  choices={UNITS.map((name) => [name, name])}
                  onChange={(name) => setUnit(name as Unit)}
                />
              )}
              {open.up && (
                <Choice
                  label="Upwards"
                  value={up}
                  choices={[
                    ["z", "z axis"],
                    ["y", "y axis"],
                  ]}
                  onChange={(name) => setUp(name as Up)}
                />
              )}
            </div>
          )}
          <div className="mt-1 flex justify-end gap-2">
            <Button onClick={onClose}>Cancel</Button>
            <button
              type="submit"
              disabled={!name.trim()}
              className="h-[27px] cursor-pointer rounded-md bg-ink px-3 font-semibold text-white disabled:opacity-45"
            >
              Take in
            </button>
          </div>
        </form>
      )}
    </Modal>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  choices: [string, string][];
  onChange: (name: string) => void;
}

function Choice({ label, value, choices, onChange }: ChoiceProps) {
  return (
    <label className="flex flex-1 flex-col gap-1">
      <span className="cap">{label}</span>
      <select
        className="h-8 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        {choices.map(([name, words]) => (
          <option key={name} value={name}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
