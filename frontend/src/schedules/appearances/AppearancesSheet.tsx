import { memo } from "react";
import type { Edit, Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { countParts } from "../../state/rows";
import { Button } from "../../ui/controls";
import * as t from "../../words/texts/schedules/appearances/AppearancesSheet";
import { FirstCoat } from "./FirstCoat";
import { InUse } from "./InUse";
import { Looks } from "./Looks";
import { Rules } from "./Rules";
import { Spreadsheet } from "./Spreadsheet";
import { untouchedOf } from "./uses";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  edit: (change: Edit) => void;
}

/** What is worn in this look, by how many parts; rules; looks; the schedule for a spreadsheet. */
export const AppearancesSheet = memo(function AppearancesSheet({ reviewId, model, standing, edit }: Props) {
  const untouched = untouchedOf(standing);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <Looks {...{ standing, edit }} />
      {untouched.length > 0 && (
        <p className="flex items-center gap-2 border-b border-rule px-3 py-2">
          <span className="flex-1 text-warn">{t.notAssigned(countParts(untouched.length))}</span>
          <Button onClick={() => useDesk.getState().choose(untouched)}>{t.selectThem}</Button>
          <FirstCoat />
        </p>
      )}
      <Rules {...{ reviewId, standing, edit }} />
      <InUse {...{ standing, edit }} />
      <Spreadsheet {...{ reviewId, model, edit }} />
    </div>
  );
});
