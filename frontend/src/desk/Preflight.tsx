import { useState } from "react";
import { usePreflight } from "../api/appearance";
import type { AssemblyActions } from "../api/assembly";
import type { Edit, Standing } from "../api/client";
import { useStills } from "../api/queries";
import { useDesk } from "../state/deskStore";
import { later } from "../ui/later";
import { Popup } from "../ui/Popup";
import * as t from "../words/texts/desk/Preflight";

const PreflightList = later(() => import("./PreflightList"), "PreflightList");

interface Props {
  reviewId: string;
  shotId: string;
  standing: Standing;
  assembly: AssemblyActions;
  /** An edit is on its way: what it changes is not known there yet. */
  saving: boolean;
  edit: (change: Edit) => void;
}

/** Opens the list of what one may want to mend in the shot before a still is taken. */
export function Preflight({ reviewId, shotId, standing, assembly, saving, edit }: Props) {
  const metered = useDesk((state) => state.frame?.metered);
  const found = usePreflight(
    reviewId,
    shotId,
    standing.seq,
    metered === undefined ? undefined : +metered.toFixed(1),
    useStills(reviewId).data?.find((still) => still.shot_id === shotId && still.state === "done")?.id,
    !saving,
  );
  const checks = found.data?.checks ?? [];
  const count = checks.filter((check) => !check.silenced).length;
  const [open, setOpen] = useState(false);
  return (
    <Popup
      label={t.checksBeforeAStill}
      open={open}
      onOpen={setOpen}
      className="w-[400px] gap-2 p-3"
      button={
        <button
          type="button"
          className={`h-7 cursor-pointer rounded-sm border px-2 whitespace-nowrap ${count ? "border-warn text-warn" : "border-rule-strong text-ink-2"}`}
        >
          {found.data ? (count ? t.toCheck(count) : t.ready) : t.checking}
        </button>
      }
    >
      <PreflightList {...{ checks, shotId, standing, assembly, edit }} />
    </Popup>
  );
}
