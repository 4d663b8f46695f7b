import { inOwnForm } from "../words/length";
import * as t from "../words/texts/api/steps";
import type { Step } from "./client";
import { TAB } from "./tab";
import { toast } from "./toast";

export type Done = "took back" | "made again";

/** What undo and redo did, and whether it was somebody else's: said each time, in one place. */
export function sayStep(did: Done, step: Step | null | undefined) {
  if (!step) return;
  toast(stepWords(did, step), { id: "step" });
}

export function stepWords(did: Done, step: Step): string {
  const what = step.words ? `: ${inOwnForm(step.words)}` : t.oneEdit;
  const words = did === "took back" ? t.tookBack : t.madeAgain;
  return `${words}${what}${isOurs(step) ? "" : t.madeInAnotherTab}.`;
}

/** Edits that no tab made, such as those of a command, are nobody's. */
export function isOurs(step: Step): boolean {
  return step.tab === null || step.tab === TAB;
}

/** What a button for it says. */
export function stepTitle(way: "undo" | "redo", step: Step | null): string {
  const name = way === "undo" ? t.undo : t.redo;
  if (!step?.words) return name;
  return `${name}: ${inOwnForm(step.words)}${isOurs(step) ? "" : t.madeInAnotherTab2}`;
}
