import { useState } from "react";
import type { Quality, Standing } from "../api/client";
import { useForecasts } from "../api/forecast";
import { QUALITIES, SAMPLES } from "../api/generated/facts";
import { takeStills } from "../api/stills";
import { toast } from "../api/toast";
import { duration } from "../schedules/shots/StillRow";
import { inOrder } from "../state/lighting";
import { shotsInOrder } from "../state/shots";
import { Button, Check, Choice } from "../ui/controls";
import { Modal } from "../ui/Modal";
import * as t from "../words/texts/stills/MatrixDialog";

const CHOICES = QUALITIES.map((name) => [name, t.samples(name, SAMPLES[name])] as const);

interface Props {
  reviewId: string;
  standing: Standing;
  open: boolean;
  onOpen: (open: boolean) => void;
  onTaken: () => void;
}

/** Every selected shot in every selected look and lighting, queued at once. */
export function MatrixDialog({ reviewId, standing, open, onOpen, onTaken }: Props) {
  const { shots, looks, look, lightings } = standing.scene;
  const order = shotsInOrder(shots);
  const [taken, setTaken] = useState<ReadonlySet<string>>(new Set(order));
  const [worn, setWorn] = useState<ReadonlySet<string>>(new Set([look]));
  const [lit, setLit] = useState<ReadonlySet<string>>(new Set());
  const [quality, setQuality] = useState<Quality>("fair");
  const [busy, setBusy] = useState(false);
  const chosen = order.filter((id) => taken.has(id));
  const count = chosen.length * worn.size * Math.max(1, lit.size);
  const forecasts = useForecasts(
    reviewId,
    standing.seq,
    chosen.map((id) => {
      const { camera, width, height } = shots[id]!;
      return { shot: id, camera, width, height, look: [...worn][0], lighting: [...lit][0] };
    }),
  );
  // One look and lighting stand for all: their stills of a shot take much the same time.
  const each = forecasts.map((one) => one.data?.qualities[quality]?.seconds);
  const seconds = each.every((one) => one !== undefined)
    ? each.reduce((sum, one) => sum + one, 0) * worn.size * Math.max(1, lit.size)
    : undefined;
  const failed = forecasts.some((one) => one.isError);
  const take = async () => {
    setBusy(true);
    try {
      await takeStills(reviewId, {
        shots: chosen,
        looks: [...worn],
        lightings: [...lit],
        quality,
        grain: null,
      });
      onOpen(false);
      onTaken();
      toast(t.queued(count, count === 1 ? t.stillIs : t.stillsAre));
    } catch (problem) {
      toast.error((problem as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal title={t.looksXLightingsX} open={open} onOpen={onOpen} width={620}>
      <div className="grid grid-cols-3 gap-5">
        <Ticks
          title={t.shots}
          all={order.map((id) => [id, shots[id]!.name])}
          ticked={taken}
          onTicked={setTaken}
        />
        <Ticks
          title={t.looks}
          all={Object.entries(looks).map(([id, one]) => [id, one.name])}
          ticked={worn}
          onTicked={setWorn}
        />
        <Ticks
          title={t.lightings}
          none={t.noneTickedEachShots}
          all={inOrder(lightings).map(([id, one]) => [id, one.name])}
          ticked={lit}
          onTicked={setLit}
        />
      </div>
      <Choice
        label={t.quality}
        value={quality}
        choices={CHOICES}
        onChange={(name) => setQuality(name as Quality)}
      />
      <p className="rounded-sm border border-rule bg-white px-2.5 py-[7px]" role="status">
        {count === 0
          ? t.selectAtLeastOne
          : t.eachInItsShots(
              count,
              count === 1 ? t.still : t.stills,
              seconds !== undefined
                ? t.aboutOfTracingMeasured(duration(seconds))
                : failed
                  ? t.howLongItTakes
                  : t.measuringHowLong,
            )}
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={() => onOpen(false)}>{t.cancel}</Button>
        <Button look="ink" disabled={count === 0 || busy} onClick={take}>
          {t.take(count, count === 1 ? t.still : t.stills)}
        </Button>
      </div>
    </Modal>
  );
}

interface TicksProps {
  title: string;
  none?: string;
  all: [string, string][];
  ticked: ReadonlySet<string>;
  onTicked: (ticked: ReadonlySet<string>) => void;
}

function Ticks({ title, none, all, ticked, onTicked }: TicksProps) {
  const tick = (id: string, on: boolean) => {
    const next = new Set(ticked);
    if (on) next.add(id);
    else next.delete(id);
    onTicked(next);
  };
  return (
    <fieldset className="flex max-h-64 min-w-0 flex-col gap-1.5 overflow-y-auto">
      <legend className="cap mb-1.5 flex w-full justify-between">{title}</legend>
      {all.map(([id, name]) => (
        <Check key={id} label={name} checked={ticked.has(id)} onChange={(on) => tick(id, on)} />
      ))}
      {none && <p className="why">{none}</p>}
    </fieldset>
  );
}
