import { Keyboard, Redo2, Undo2 } from "lucide-react";
import { useState } from "react";
import { Link } from "wouter";
import type { AssemblyActions } from "../api/assembly";
import type { Edit, Model, Standing } from "../api/client";
import { actions, useAct } from "../api/queries";
import { stepTitle } from "../api/steps";
import { IconButton, Mark } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { length } from "../words/length";
import * as t from "../words/texts/desk/TopLine";
import { History } from "./History";
import { LampSwitch } from "./LampSwitch";
import { Preflight } from "./Preflight";
import { TakeStill } from "./TakeStill";

interface Props {
  reviewId: string;
  name: string;
  model: Model;
  standing: Standing;
  shotId: string;
  assembly: AssemblyActions;
  edit: (change: Edit) => void;
  undo: (to?: number) => void;
  redo: (to?: number) => void;
  saving: boolean;
  failed: boolean;
}

export function TopLine({
  reviewId,
  name,
  model,
  standing,
  shotId,
  assembly,
  edit,
  undo,
  redo,
  saving,
  failed,
}: Props) {
  return (
    <header className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule-strong px-3.5">
      <Hint text={t.allReviews}>
        <Link href="/" className="flex items-center gap-2 text-[14px] font-semibold">
          <Mark />
          {t.usualLamp}
        </Link>
      </Hint>
      <span className="text-rule-strong">/</span>
      <ReviewName reviewId={reviewId} name={name} />
      <Hint text={t.importedFromInChord(model.file_name, model.source_units, length(model.chord, 3))}>
        <span className="max-w-52 truncate rounded-sm border border-rule-strong bg-sheet px-[7px] py-0.5 font-narrow text-[12px] font-medium">
          {model.file_name}
        </span>
      </Hint>
      <span className={`why whitespace-nowrap ${failed ? "!text-stop" : ""}`} role="status">
        {saving ? t.saving : failed ? t.theLastChangeWas : t.allChangesSaved}
      </span>
      <IntakeReport model={model} />
      <span className="flex-1" />
      <IconButton
        label={t.undo}
        hint={stepTitle("undo", standing.undoes)}
        keys="Ctrl Z"
        disabled={!standing.undoes}
        onClick={() => undo()}
      >
        <Undo2 size={16} />
      </IconButton>
      <IconButton
        label={t.redo}
        hint={stepTitle("redo", standing.redoes)}
        keys="Ctrl Shift Z"
        disabled={!standing.redoes}
        onClick={() => redo()}
      >
        <Redo2 size={16} />
      </IconButton>
      <History {...{ reviewId, seq: standing.seq, undo, redo }} />
      <IconButton
        label={t.keyboardShortcuts}
        keys="?"
        onClick={() => window.dispatchEvent(new KeyboardEvent("keydown", { key: "?", shiftKey: true }))}
      >
        <Keyboard size={16} />
      </IconButton>
      <LampSwitch />
      <Preflight {...{ reviewId, shotId, standing, assembly, saving, edit }} />
      <TakeStill reviewId={reviewId} standing={standing} shotId={shotId} edit={edit} />
    </header>
  );
}

function IntakeReport({ model }: { model: Model }) {
  if (model.warnings.length === 0) return null;
  return (
    <Hint text={model.warnings.join("\n")}>
      <span className="rounded-sm border border-warn px-[7px] py-0.5 font-narrow text-[12px] font-medium text-warn">
        {t.importWord(model.warnings.length, model.warnings.length === 1 ? t.note : t.notes)}
      </span>
    </Hint>
  );
}

/** Click to rename. */
function ReviewName({ reviewId, name }: { reviewId: string; name: string }) {
  const [draft, setDraft] = useState<string>();
  const act = useAct(["review", reviewId]);
  if (draft === undefined)
    return (
      <Hint text={t.renameThisReview}>
        <button
          type="button"
          className="max-w-72 cursor-text truncate font-semibold"
          onClick={() => setDraft(name)}
        >
          {name}
        </button>
      </Hint>
    );
  const commit = () => {
    if (draft.trim() && draft !== name) act(() => actions.rename(reviewId, draft)).catch(() => undefined);
    setDraft(undefined);
  };
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: the field replaces the button that was just pressed
      autoFocus
      aria-label={t.nameOfTheReview}
      maxLength={120}
      className="w-60 border-b border-mark bg-transparent font-semibold outline-none"
      value={draft}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit();
        if (event.key === "Escape") setDraft(undefined);
      }}
    />
  );
}
