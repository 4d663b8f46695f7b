import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { api, type TracingSettings as Settings, taken } from "../api/client";
import { Button, NumberField } from "../ui/controls";

/** How many cores and how much memory tracing may take on this machine. */
export function TracingSettings() {
  const [open, setOpen] = useState(false);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button className="!h-8">Tracing</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 flex w-[360px] -translate-x-1/2 -translate-y-1/2 flex-col gap-3 rounded-md border border-rule-strong bg-sheet p-5 shadow-xl"
        >
          <Dialog.Title className="text-[15px] font-semibold">Tracing may take</Dialog.Title>
          {open && <Fields onDone={() => setOpen(false)} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
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
  if (!found.data) return <p className="text-ink-2">Fetching the settings…</p>;
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
          Cores <span className="why">of {machine.cores}</span>
        </span>
        <NumberField
          label="Cores"
          value={now.cores}
          onCommit={(cores) =>
            setDraft({ ...now, cores: Math.min(machine.cores, Math.max(1, Math.round(cores))) })
          }
        />
        <span>
          Memory <span className="why">of {machine.memory.toFixed(0)} GB, each process</span>
        </span>
        <NumberField
          label="Memory"
          value={now.memory}
          digits={1}
          unit="GB"
          onCommit={(memory) => setDraft({ ...now, memory: Math.min(machine.memory, Math.max(1, memory)) })}
        />
      </div>
      <p className="why">
        Holds at once, for stills and for the lamp. Stills give way to the lamp in any case.
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>Cancel</Button>
        <Button look="ink" onClick={keep}>
          Keep
        </Button>
      </div>
    </>
  );
}
