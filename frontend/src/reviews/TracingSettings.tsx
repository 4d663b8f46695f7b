import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type TracingSettings as Settings, taken } from "../api/client";
import { toast } from "../api/toast";
import { Button, NumberField } from "../ui/controls";
import { Modal } from "../ui/Modal";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/reviews/TracingSettings";

/** How many cores and how much memory tracing may take on this machine. */
export function TracingSettings() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button className="!h-8" onClick={() => setOpen(true)}>
        {t.tracing}
      </Button>
      <Modal title={t.tracingResources} open={open} onOpen={setOpen} width={360}>
        <Fields onDone={() => setOpen(false)} />
      </Modal>
    </>
  );
}

function Fields({ onDone }: { onDone: () => void }) {
  const client = useQueryClient();
  const found = useQuery({
    queryKey: ["tracing"],
    queryFn: () => taken<Settings>(api.GET("/api/settings/tracing")),
    staleTime: 0,
  });
  const [draft, setDraft] = useState<Settings["tracing"]>();
  if (found.isError) return <p className="text-stop">{found.error.message}</p>;
  if (!found.data) return <p className="text-ink-2">{t.fetchingTheSettings}</p>;
  const { machine } = found.data;
  const now = draft ?? found.data.tracing;
  const keep = async () => {
    try {
      await taken(api.PUT("/api/settings/tracing", { body: now }));
      client.invalidateQueries({ queryKey: ["tracing"] });
      onDone();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <div className="grid grid-cols-[1fr_96px] items-center gap-2">
        <span>
          {t.cores} <span className="why">{t.ofWord(machine.cores)}</span>
        </span>
        <NumberField
          label={t.cores}
          value={now.cores}
          onCommit={(cores) =>
            setDraft({ ...now, cores: Math.min(machine.cores, Math.max(1, Math.round(cores))) })
          }
        />
        <span>
          {t.memory} <span className="why">{t.ofGbEachProcess(decimals(machine.memory))}</span>
        </span>
        <NumberField
          label={t.memory}
          value={now.memory}
          digits={1}
          unit="GB"
          onCommit={(memory) => setDraft({ ...now, memory: Math.min(machine.memory, Math.max(1, memory)) })}
        />
      </div>
      <p className="why">{t.takesEffectImmediatelyFor}</p>
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>{t.cancel}</Button>
        <Button look="ink" onClick={keep}>
          {t.keep}
        </Button>
      </div>
    </>
  );
}
