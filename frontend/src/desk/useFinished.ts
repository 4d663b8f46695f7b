import { useEffect, useRef } from "react";
import type { StillLine } from "../api/client";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import * as t from "../words/texts/desk/useFinished";
import { saveFinished } from "./saving";

const BUSY: ReadonlySet<StillLine["state"]> = new Set(["queued", "running"]);

/** Says when a still that was waited for is done or failed; by the system as well, where that was allowed and nobody looks. */
export function useFinished(stills: StillLine[]) {
  const before = useRef<ReadonlyMap<string, StillLine["state"]>>(new Map());
  useEffect(() => {
    for (const still of stills) {
      const wish = still.state === "done" ? useDesk.getState().saves[still.id] : undefined;
      if (wish) saveFinished(still, wish).catch((problem: Error) => toast.error(problem.message));
      const was = before.current.get(still.id);
      if (was === undefined || !BUSY.has(was) || BUSY.has(still.state)) continue;
      if (still.state === "failed") toast.error(t.theStillFailed(still.name, String(still.message)));
      if (still.state !== "done" || (wish && !wish.kept)) continue;
      const words = t.theStillIsDone(still.name);
      const show = () => useDesk.setState({ sheet: "shots", shot: still.shot_id, shownStill: still.id });
      // Who looks at it sees that.
      if (useDesk.getState().shownStill !== still.id)
        toast(words, { action: { label: t.show, onClick: show } });
      if (document.hidden && "Notification" in window && Notification.permission === "granted")
        new Notification(t.usualLamp, { body: words, tag: still.id }).onclick = () => {
          window.focus();
          show();
        };
    }
    before.current = new Map(stills.map((still) => [still.id, still.state]));
  }, [stills]);
}

/** Asks the browser whether it may notify, where it was not asked yet. */
export async function askToNotify() {
  if (!("Notification" in window)) return toast(t.thisBrowserHasNo);
  const answer = await Notification.requestPermission();
  toast(answer === "granted" ? t.youAreNotifiedWhen : t.theBrowserDoesNot);
}
