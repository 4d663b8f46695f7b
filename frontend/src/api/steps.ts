import { inOwnUnit } from "../words/length";
import type { Step } from "./client";
import { TAB } from "./tab";
import { toast } from "./toast";

/** What undo and redo did, and whether it was somebody else's: said each time, in one place. */
export function sayStep(did: "Took back" | "Made again", step: Step | null | undefined) {
  if (!step) return;
  toast(stepWords(did, step), { id: "step" });
}

export function stepWords(did: "Took back" | "Made again", step: Step): string {
  const what = step.words ? `: ${inOwnUnit(step.words)}` : " one edit";
  return `${did}${what}${isOurs(step) ? "" : ", made in another tab"}.`;
}

/** Edits that no tab made, such as those of a command, are nobody's. */
export function isOurs(step: Step): boolean {
  return step.tab === null || step.tab === TAB;
}

/** What a button for it says. */
export function stepTitle(name: "Undo" | "Redo", step: Step | null): string {
  if (!step?.words) return name;
  return `${name}: ${inOwnUnit(step.words)}${isOurs(step) ? "" : " (made in another tab)"}`;
}
