import { useState } from "react";
import { useFirstCoat } from "../../api/appearance";
import type { Edit, Standing } from "../../api/client";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { countParts } from "../../state/rows";
import { Button } from "../../ui/controls";
import { Modal } from "../../ui/Modal";
import { Swatch } from "../../ui/Swatch";
import { nameOf } from "./uses";

interface Props {
  reviewId: string;
  standing: Standing;
  edit: (change: Edit) => void;
}

const rank = (sure: number) => (sure >= 0.8 ? "sure" : sure >= 0.6 ? "likely" : "a guess");

/** What is proposed, to be taken line by line. */
export function FirstCoatDialog({ reviewId, standing, edit }: Props) {
  const onClose = () => useDesk.setState({ firstCoat: false });
  const found = useFirstCoat(reviewId, standing.seq).data;
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const coats = found?.coats ?? [];
  const open = found?.open ?? [];
  const taken = coats.filter((_, place) => !left.has(place));
  const count = new Set(taken.flatMap((coat) => coat.uids)).size;
  const undecided = open.flatMap((one) => one.uids);
  const toggle = (places: number[], on: boolean) => {
    const next = new Set(left);
    for (const place of places) on ? next.delete(place) : next.add(place);
    setLeft(next);
  };
  const apply = () => {
    edit({
      kind: "assign",
      look: standing.scene.look,
      assignments: Object.fromEntries(
        taken.flatMap((coat) => coat.keys.map((key) => [key, coat.appearance.id] as const)),
      ),
      define: Object.fromEntries(taken.map((coat) => [coat.appearance.id, coat.appearance])),
    });
    onClose();
    toast(`First coat applied to ${countParts(count)}. Undo takes all of it back.`);
  };
  return (
    <Modal title="First coat" open onOpen={(next) => !next && onClose()} width={760}>
      {!found && <p className="text-ink-2">Reading names and materials…</p>}
      {found && coats.length === 0 && (
        <p className="text-ink-2">
          Every part was given an appearance already, or nothing is known of those that were not.
        </p>
      )}
      {coats.length > 0 && (
        <div className="min-h-0 overflow-y-auto border border-rule bg-white">
          <table className="w-full border-collapse text-left">
            <thead>
              <tr className="cap sticky top-0 bg-sunk">
                <th className="w-8 py-1.5 pl-2.5 font-normal">
                  <input
                    type="checkbox"
                    aria-label="All"
                    checked={left.size === 0}
                    onChange={(event) =>
                      toggle(
                        coats.map((_, place) => place),
                        event.target.checked,
                      )
                    }
                  />
                </th>
                <th className="font-normal">Appearance</th>
                <th className="font-normal">Parts</th>
                <th className="font-normal">How sure</th>
                <th className="font-normal">Why</th>
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
            <b className="font-semibold">To decide: {countParts(undecided.length)}.</b>{" "}
            <span className="text-ink-2">
              {open
                .slice(0, 6)
                .map((one) => (one.uids.length > 1 ? `${one.name} (${one.uids.length})` : one.name))
                .join(", ")}
              {open.length > 6 && ` and ${open.length - 6} more`}
            </span>
          </span>
          <Button
            onClick={() => {
              useDesk.getState().choose(undecided);
              useDesk.setState({ sheet: "parts" });
              onClose();
            }}
          >
            Select them
          </Button>
        </p>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="ink" disabled={count === 0} onClick={apply}>
          Apply to {countParts(count)}
        </Button>
      </div>
    </Modal>
  );
}
