import { History as Clock } from "lucide-react";
import { useState } from "react";
import { later } from "../ui/later";
import { Popup } from "../ui/Popup";
import * as t from "../words/texts/desk/History";

const HistoryList = later(() => import("./HistoryList"), "HistoryList");

interface Props {
  reviewId: string;
  seq: number;
  undo: (to?: number) => void;
  redo: (to?: number) => void;
}

/** Opens the list of the last edits. */
export function History(list: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Popup
      label={t.history}
      hint={t.theLastEditsGo}
      open={open}
      onOpen={setOpen}
      className="w-[340px] py-2"
      button={
        <button
          type="button"
          aria-label={t.history}
          className="grid h-[30px] w-[30px] cursor-pointer place-items-center rounded-md text-ink-2 hover:bg-sunk hover:text-ink"
        >
          <Clock size={16} />
        </button>
      }
    >
      <HistoryList {...list} />
    </Popup>
  );
}
