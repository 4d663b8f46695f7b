import { useMemo, useRef } from "react";
import type { Model, Standing } from "../api/client";
import { useSection } from "../api/sections";
import { useDesk } from "../state/deskStore";
import { cutModel, cutStanding } from "../state/section";
import { seenIn } from "../state/shots";

/** The model and the standing as a shot shows them: cut by its section, without what it alone does not show. */
export function useCut(reviewId: string, model: Model, standing: Standing, shotId: string, onDesk: boolean) {
  const kept = standing.scene.shots[shotId]!.section;
  const preview = useDesk((state) => state.sectionPreview);
  const answer = useSection(reviewId, shotId, standing.seq, (onDesk ? preview : undefined) ?? kept);
  // Most edits change nothing of a section: what was loaded then stays.
  const last = useRef(answer);
  if (JSON.stringify(last.current) !== JSON.stringify(answer)) last.current = answer;
  const cut = last.current;
  const seen = useMemo(() => cutStanding(seenIn(standing, shotId), cut), [standing, shotId, cut]);
  const staged = useMemo(() => cutModel(model, cut), [model, cut]);
  return { seen, staged };
}
