import { useState } from "react";
import { readAppearances, readSchedule, type ScheduleDifference } from "../../api/appearance";
import type { Edit, Model } from "../../api/client";
import { toast } from "../../api/toast";
import { countParts } from "../../state/rows";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import * as t from "../../words/texts/schedules/appearances/Spreadsheet";

interface Props {
  reviewId: string;
  model: Model;
  edit: (change: Edit) => void;
}

/** The schedule out to a spreadsheet, and back: first what would change, then the change. */
export function Spreadsheet({ reviewId, edit }: Props) {
  const [found, setFound] = useState<ScheduleDifference>();
  const read = async (file: File) => {
    try {
      setFound(await readSchedule(reviewId, file));
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const take = async (file: File) => {
    try {
      const taken = await readAppearances(reviewId, file);
      if (taken.edit) edit(taken.edit as Edit);
      const count = taken.names.length;
      toast(
        t.onTheShelfNow(
          count === 0
            ? t.noNewAppearance
            : count === 1
              ? t.is(String(taken.names[0]))
              : t.appearancesAre(count),
        ),
        {
          description: taken.notes.slice(0, 4).join(" "),
        },
      );
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section aria-label={t.exchange} className="flex flex-col gap-2 px-3 py-2.5">
      <Exchange
        words={t.theScheduleAsCsv}
        href={`/api/reviews/${reviewId}/schedule.csv`}
        name="CSV"
        file={{ accept: ".csv,text/csv", label: t.csvSchedule, onFile: read }}
      />
      <Exchange
        words={t.thisReviewsAppearancesAs}
        href={`/api/reviews/${reviewId}/appearances.mtlx`}
        name="MTLX"
        file={{ accept: ".mtlx", label: t.materialxDocument, onFile: take }}
      />
      {found && (
        <div
          role="group"
          aria-label={t.whatTheFileWould}
          className="rounded-sm border border-rule bg-white p-2.5"
        >
          <b className="font-semibold">
            {found.lines.length === 0
              ? t.theFileChangesNothing
              : t.theFileChanges(countParts(found.lines.length))}
          </b>
          <ul className="max-h-52 overflow-y-auto text-[12px]">
            {found.lines.map((line) => (
              <li key={line.key} className="flex gap-1.5">
                <span className="truncate">{line.part}</span>
                <span className="why truncate">
                  {line.now || t.nothing} → {line.then || t.nothing}
                </span>
              </li>
            ))}
            {found.problems.map((words) => (
              <li key={words} className="text-stop">
                {words}
              </li>
            ))}
          </ul>
          <div className="mt-2 flex justify-end gap-2">
            <Button onClick={() => setFound(undefined)}>{t.cancel}</Button>
            {found.edit && (
              <Button
                look="ink"
                onClick={() => {
                  edit(found.edit as Edit);
                  setFound(undefined);
                }}
              >
                {t.apply}
              </Button>
            )}
          </div>
        </div>
      )}
    </section>
  );
}

interface ExchangeProps {
  words: string;
  href: string;
  /** Of the format. */
  name: string;
  file: { accept: string; label: string; onFile: (file: File) => void };
}

/** Something that goes out as a file, and comes back in as one. */
function Exchange({ words, href, name, file }: ExchangeProps) {
  return (
    <div className="flex items-center gap-2">
      <span className="why flex-1">{words}</span>
      <a
        className="rounded-md border border-rule-strong bg-white px-2.5 py-1 font-medium hover:border-ink"
        href={href}
        download
      >
        {t.save(name)}
      </a>
      <FileButton {...file}>{t.read(name)}</FileButton>
    </div>
  );
}
