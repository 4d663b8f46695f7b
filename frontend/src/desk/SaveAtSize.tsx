import { ChevronDown } from "lucide-react";
import { useState } from "react";
import type { Shot } from "../api/client";
import { Button } from "../ui/controls";
import { later } from "../ui/later";
import { Popup } from "../ui/Popup";
import * as t from "../words/texts/desk/SaveAtSize";

const SaveAtSizePanel = later(() => import("./SaveAtSizePanel"), "SaveAtSizePanel");

interface Props {
  reviewId: string;
  name: string;
  shotId: string;
  shot: Shot;
}

/** Opens what saves the view at the full size of its shot. */
export function SaveAtSize(view: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Popup
      label={t.saveAtTheSize}
      hint={t.saveAtTheSize}
      open={open}
      onOpen={setOpen}
      className="w-[300px] gap-2.5 p-3.5"
      button={
        <Button className="rounded-l-none px-1.5" aria-label={t.saveAtTheSize}>
          <ChevronDown size={14} aria-hidden="true" />
        </Button>
      }
    >
      <SaveAtSizePanel {...view} onClose={() => setOpen(false)} />
    </Popup>
  );
}
