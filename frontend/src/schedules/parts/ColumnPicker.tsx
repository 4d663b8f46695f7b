import { Columns3 } from "lucide-react";
import { useState } from "react";
import type { Model } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Popup } from "../../ui/Popup";
import * as t from "../../words/texts/schedules/parts/ColumnPicker";
import { columnsOf } from "./columns";

/** Which columns the schedule shows. */
export function ColumnPicker({ model }: { model: Model }) {
  const { columns, showColumns } = useDesk();
  const [open, setOpen] = useState(false);
  return (
    <Popup
      label={t.columns}
      open={open}
      onOpen={setOpen}
      className="w-52 p-2"
      button={
        <button
          type="button"
          aria-label={t.columns}
          title={t.columns}
          className="grid h-7 w-7 shrink-0 cursor-pointer place-items-center rounded-md border border-rule-strong bg-white text-ink-2 hover:text-ink"
        >
          <Columns3 size={14} />
        </button>
      }
    >
      <span className="cap px-1.5 py-1">{t.columns}</span>
      {columnsOf(model).map((column) => (
        <label
          key={column.id}
          className="flex cursor-pointer items-center gap-2 px-1.5 py-[3px] hover:bg-paper"
        >
          <input
            type="checkbox"
            className="accent-ink"
            checked={columns.includes(column.id)}
            onChange={(event) =>
              showColumns(
                event.target.checked ? [...columns, column.id] : columns.filter((id) => id !== column.id),
              )
            }
          />
          <span className="truncate">{column.title}</span>
        </label>
      ))}
    </Popup>
  );
}
