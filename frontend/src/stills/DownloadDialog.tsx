import { useState } from "react";
import type { StillLine } from "../api/client";
import { FORMS, type Form, PATTERN, zipOf } from "../api/stills";
import { Button, Choice } from "../ui/controls";
import { Modal } from "../ui/Modal";
import * as t from "../words/texts/stills/DownloadDialog";

const WORDS = ["review", "shot", "look", "lighting", "size", "date", "number"];

interface Props {
  reviewId: string;
  stills: StillLine[];
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Finished stills as one ZIP, named by a pattern. */
export function DownloadDialog({ reviewId, stills, open, onOpen }: Props) {
  const [form, setForm] = useState<Form>("png");
  const [pattern, setPattern] = useState(PATTERN);
  const ready = stills.filter((one) => one.state === "done" && (form === "png" || one.developable));
  const left = stills.length - ready.length;
  return (
    <Modal title={t.downloadStills} open={open} onOpen={onOpen} width={460}>
      <Choice label={t.format} value={form} choices={FORMS} onChange={(name) => setForm(name as Form)} />
      <label className="flex flex-col gap-1.5">
        {t.fileNames}
        <input
          className="figures rounded-sm border border-rule-strong bg-white px-2 py-1"
          maxLength={200}
          value={pattern}
          onChange={(event) => setPattern(event.target.value)}
        />
      </label>
      <div className="flex flex-wrap gap-1.5">
        {WORDS.map((word) => (
          <Button
            key={word}
            className="figures !h-6 !px-1.5 text-[12px]"
            onClick={() => setPattern(`${pattern} {${word}}`.trim())}
          >
            {`{${word}}`}
          </Button>
        ))}
      </div>
      <p className="why">
        {t.inOneZipFile(ready.length, ready.length === 1 ? t.picture : t.pictures)}
        {left > 0 && t.leftOutNotFinished(left)}
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={() => onOpen(false)}>{t.cancel}</Button>
        <a
          aria-disabled={ready.length === 0}
          className={`flex h-[27px] items-center rounded-md border border-ink bg-ink px-2.5 font-medium text-white ${ready.length === 0 ? "pointer-events-none opacity-45" : "hover:bg-ink/90"}`}
          href={zipOf(
            reviewId,
            ready.map((one) => one.id),
            form,
            pattern.trim() || PATTERN,
          )}
          download
          onClick={() => onOpen(false)}
        >
          {t.download}
        </a>
      </div>
    </Modal>
  );
}
