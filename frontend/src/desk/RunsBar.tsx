import { X } from "lucide-react";
import { Suspense, useEffect, useState } from "react";
import { type AssemblyActions, useFollowed, useRuns } from "../api/assembly";
import type { IntakeLine } from "../api/client";
import { Button, IconButton } from "../ui/controls";
import { later } from "../ui/later";
import * as t from "../words/texts/desk/RunsBar";

const RevisionDialog = later(() => import("./RevisionDialog"), "RevisionDialog");

interface Props {
  reviewId: string;
  assembly: AssemblyActions;
}

/** What is on its way into the review, or waits to be looked at: a line of its own under the top line. */
export function RunsBar({ reviewId, assembly }: Props) {
  const runs = useRuns(reviewId).data ?? [];
  const followed = (useFollowed(reviewId).data ?? []).filter((line) => line.newer);
  const [looked, setLooked] = useState<string>();
  const ready = runs.find((run) => run.purpose === "replace" && run.state === "ready");
  const readyId = ready?.id;
  useEffect(() => setLooked(readyId), [readyId]);
  const waiting = followed.filter((line) => !runs.some((run) => run.model === line.model));
  return (
    <>
      {runs.map((run) => (
        <Line key={run.id}>
          {run.state === "failed" ? (
            <span className="flex-1 truncate text-stop" role="alert">
              <b className="font-semibold">{run.file_name || run.name}</b>: {run.message}
            </span>
          ) : run.state === "ready" ? (
            <>
              <span className="flex-1 truncate">
                <b className="font-semibold">{run.file_name}</b> {t.isComparedAndReady}
              </span>
              <Button look="mark" onClick={() => setLooked(run.id)}>
                {t.lookAtTheRevision}
              </Button>
            </>
          ) : (
            <Progress run={run} />
          )}
          <IconButton
            label={run.state === "failed" ? t.putAway : t.stop}
            onClick={() => assembly.stop(run.id)}
          >
            <X size={14} />
          </IconButton>
        </Line>
      ))}
      {waiting.map((line) => (
        <Line key={line.model}>
          <span className="flex-1 truncate">
            {t.aNewer} <b className="font-semibold">{line.path.split("/").pop()}</b> {t.hasAppeared}
          </span>
          <Button look="mark" onClick={() => assembly.takeNewer(line.model)}>
            {t.compareItWithThis}
          </Button>
        </Line>
      ))}
      {ready && (
        <Suspense>
          <RevisionDialog
            intake={ready.id}
            open={looked === ready.id}
            onOpen={(open) => setLooked(open ? ready.id : undefined)}
            assembly={assembly}
          />
        </Suspense>
      )}
    </>
  );
}

function Line({ children }: { children: React.ReactNode }) {
  return (
    <div
      className="flex h-9 shrink-0 items-center gap-3 border-b border-rule-strong bg-sheet px-3.5"
      role="status"
    >
      {children}
    </div>
  );
}

const WHAT: Record<IntakeLine["purpose"], string> = {
  review: t.takingIn,
  add: t.takingIn,
  replace: t.readingTheRevision,
  tessellate: t.tessellating,
};

function Progress({ run }: { run: IntakeLine }) {
  return (
    <>
      <span className="truncate">
        {WHAT[run.purpose]}{" "}
        <b className="font-semibold">{run.file_name || run.name.replace(/^Tessellation of /, "")}</b>
      </span>
      <span className="why w-40 truncate">{run.stage}</span>
      <span className="h-[3px] flex-1 rounded-sm bg-rule">
        <span
          className="block h-full rounded-sm bg-ink"
          style={{ width: `${Math.round(run.progress * 100)}%` }}
        />
      </span>
      <span className="figures w-10 text-right">{Math.round(run.progress * 100)} %</span>
    </>
  );
}
