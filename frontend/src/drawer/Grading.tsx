import { useState } from "react";
import type { Shot } from "../api/client";
import { useDesk } from "../state/deskStore";
import { Amount } from "../ui/Amount";
import { Button } from "../ui/controls";
import * as t from "../words/texts/drawer/Grading";
import { Unfold } from "./Unfold";

type Name = "contrast" | "saturation" | "vignette" | "glare" | "sharpening";
const PLAIN: Record<Name, number> = { contrast: 1, saturation: 1, vignette: 0, glare: 0, sharpening: 0 };
const ROWS: { name: Name; label: string; min: number; max: number; step: number; unit?: string }[] = [
  { name: "contrast", label: t.contrast, min: 0.5, max: 2, step: 0.05 },
  { name: "saturation", label: t.saturation, min: 0, max: 2, step: 0.05 },
  { name: "vignette", label: t.vignette, min: 0, max: 4, step: 0.1, unit: "EV" },
  { name: "glare", label: t.glare, min: 0, max: 0.5, step: 0.01 },
  { name: "sharpening", label: t.sharpening, min: 0, max: 2, step: 0.05 },
];

const FOLDED = t.contrastVignetteGlare;

interface Props {
  shot: Required<Shot>;
  commit: (change: Partial<Shot>) => void;
}

/** What is done to the finished picture without tracing; held down, the button shows it without. */
export function Grading({ shot, commit }: Props) {
  const used = ROWS.some(({ name }) => shot[name] !== PLAIN[name]);
  const open = useDesk((state) => state.sections[FOLDED]);
  const [kept, setKept] = useState<Record<Name, number>>();
  const values = kept ?? shot;
  if (!open && !used) return <Unfold title={FOLDED} />;
  const compare = () => {
    if (kept) {
      commit(kept);
      setKept(undefined);
      return;
    }
    setKept(Object.fromEntries(ROWS.map(({ name }) => [name, shot[name]])) as Record<Name, number>);
    commit(PLAIN);
  };
  return (
    <>
      {ROWS.map(({ name, label, min, max, step, unit }) => (
        <Amount
          key={name}
          topic={name}
          {...{ label, min, max, step, unit }}
          value={values[name]}
          digits={2}
          disabled={shot.locked || kept !== undefined}
          onCommit={(value) => commit({ [name]: value })}
        />
      ))}
      <div className="flex gap-2">
        <Button aria-pressed={kept !== undefined} disabled={!used && !kept} onClick={compare}>
          {kept ? t.withItAgain : t.showWithout}
        </Button>
        <Button disabled={!used} onClick={() => commit(PLAIN)}>
          {t.reset}
        </Button>
      </div>
      <p className="why">{t.theBackdropKeepsIts}</p>
    </>
  );
}
