import { useState } from "react";
import { useFirstCoat } from "../../api/appearance";
import type { Edit, Standing } from "../../api/client";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { countParts } from "../../state/rows";
import { Button, Check } from "../../ui/controls";
import { Modal } from "../../ui/Modal";
import { Swatch } from "../../ui/Swatch";
import { decimals } from "../../words/numbers";
import * as t from "../../words/texts/schedules/appearances/FirstCoatDialog";
import { nameOf } from "./uses";

interface Props {
  reviewId: string;
  standing: Standing;
  edit: (change: Edit) => void;
}

const rank = (sure: number) => (sure >= 0.8 ? t.sure : sure >= 0.6 ? t.likely : t.aGuess);

/** What is proposed, to be taken line by line. */
export function FirstCoatDialog({ reviewId, standing, edit }: Props) {
  const onClose = () => useDesk.setState({ firstCoat: false });
  const found = useFirstCoat(reviewId, standing.seq).data;
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [exposes, setExposes] = useState(true);
  const coats = found?.coats ?? [];
  const open = found?.open ?? [];
  const taken = coats.filter((_, place) => !left.has(place));
  const count = new Set(taken.flatMap((coat) => coat.uids)).size;
  const undecided = open.flatMap((one) => one.uids);
  const exposures = Object.entries(found?.exposures ?? {}).filter(([id]) => standing.scene.shots[id]);
  const toggle = (places: number[], on: boolean) => {
    const next = new Set(left);
    for (const place of places) on ? next.delete(place) : next.add(place);
    setLeft(next);
  };
  const apply = () => {
    edit({
      kind: "apply_first_coat",
      look: standing.scene.look,
      assignments: Object.fromEntries(
        taken.flatMap((coat) => coat.keys.map((key) => [key, coat.appearance.id] as const)),
      ),
      define: Object.fromEntries(taken.map((coat) => [coat.appearance.id, coat.appearance])),
      exposures: Object.fromEntries(exposes ? exposures : []),
    });
    onClose();
    toast(t.firstCoatAppliedTo(countParts(count)));
  };
  return (
    <Modal title={t.firstCoat} open onOpen={(next) => !next && onClose()} width={760}>
      {!found && <p className="text-ink-2">{t.readingNamesAndMaterials}</p>}
      {found && coats.length === 0 && <p className="text-ink-2">{t.everyPartWasGiven}</p>}
      {coats.length > 0 && (
        <div className="min-h-0 overflow-y-auto border border-rule bg-white">
          <table className="w-full border-collapse text-left">
            <thead>
              <tr className="cap sticky top-0 bg-sunk">
                <th className="w-8 py-1.5 pl-2.5 font-normal">
                  <input
                    type="checkbox"
                    aria-label={t.all}
                    checked={left.size === 0}
                    onChange={(event) =>
                      toggle(
                        coats.map((_, place) => place),
                        event.target.checked,
                      )
                    }
                  />
                </th>
                <th className="font-normal">{t.appearance}</th>
                <th className="font-normal">{t.parts}</th>
                <th className="font-normal">{t.howSure}</th>
                <th className="font-normal">{t.why}</th>
              </tr>
            </thead>
            <tbody>
              {coats.map((coat, place) => (
                <tr key={`${coat.appearance.id} ${coat.why}`} className="border-t border-row">
                  <td className="py-1 pl-2.5">
                    <input
                      type="checkbox"
                      aria-label={`${nameOf(coat.appearance)}, ${countParts(coat.uids.length)}`}
                      checked={!left.has(place)}
                      onChange={(event) => toggle([place], event.target.checked)}
                    />
                  </td>
                  <td className="max-w-48 pr-3">
                    <span className="flex items-center">
                      <Swatch appearance={coat.appearance} nothing={false} />
                      <span className="truncate">{nameOf(coat.appearance)}</span>
                    </span>
                  </td>
                  <td className="max-w-40 pr-3">
                    <span className="block truncate" title={coat.names.join(", ")}>
                      <span className="figures">{coat.uids.length}</span> {coat.names.join(", ")}
                    </span>
                  </td>
                  <td className="pr-3 whitespace-nowrap">
                    {rank(coat.sure)}{" "}
                    <span className="figures text-ink-2">{Math.round(coat.sure * 100)} %</span>
                  </td>
                  <td className="why py-1 pr-2">{coat.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {open.length > 0 && (
        <p className="flex items-start gap-3">
          <span className="flex-1">
            <b className="font-semibold">{t.toDecide(countParts(undecided.length))}</b>{" "}
            <span className="text-ink-2">
              {open
                .slice(0, 6)
                .map((one) => (one.uids.length > 1 ? `${one.name} (${one.uids.length})` : one.name))
                .join(", ")}
              {open.length > 6 && t.andMore(open.length - 6)}
            </span>
          </span>
          <Button
            onClick={() => {
              useDesk.getState().choose(undecided);
              useDesk.setState({ sheet: "parts" });
              onClose();
            }}
          >
            {t.selectThem}
          </Button>
        </p>
      )}
      {exposures.map(([id, exposure]) => {
        const now = standing.scene.shots[id]!.exposure ?? exposure;
        return (
          <div key={id} className="flex items-center gap-2">
            <Check label={t.exposeForEv(decimals(exposure, 1))} checked={exposes} onChange={setExposes} />
            <span className="why">
              {t.evNow(now > exposure ? t.theProductIsDark : t.theProductIsLight, decimals(now, 1))}
            </span>
          </div>
        );
      })}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>{t.cancel}</Button>
        <Button look="ink" disabled={count === 0} onClick={apply}>
          {t.applyTo(countParts(count))}
        </Button>
      </div>
    </Modal>
  );
}
