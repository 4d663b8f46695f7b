import { useEffect, useState } from "react";
import type { Quality } from "../api/client";
import { Button } from "../ui/controls";
import { Modal } from "../ui/Modal";

interface Props {
  file?: File;
  onClose: () => void;
  onTake: (file: File, name: string, quality: Quality) => void;
}

const QUALITIES: { name: Quality; words: string }[] = [
  { name: "coarse", words: "quick, facets may show" },
  { name: "fair", words: "facets hardly show" },
  { name: "fine", words: "for large pictures" },
];

/** Name and tessellation, before the file is taken in. */
export function NewReview({ file, onClose, onTake }: Props) {
  const [name, setName] = useState("");
  const [quality, setQuality] = useState<Quality>("fair");
  useEffect(() => setName(file?.name.replace(/\.\w+$/, "") ?? ""), [file]);
  if (!file) return null;
  const known = /\.(step|stp|p21)$/i.test(file.name);
  const problem = !known
    ? "This format cannot be taken in yet. Export a STEP file (.step, .stp) from CAD."
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
            onTake(file, name, quality);
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
