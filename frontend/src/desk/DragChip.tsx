import { useEffect, useState } from "react";
import { useConsequence } from "../api/appearance";
import type { Appearance, Edit, Model, Standing } from "../api/client";
import { noteSample } from "../drawer/recent";
import { useDesk } from "../state/deskStore";
import type { FaceOf } from "../state/giving";
import { givingEdit, REACHES, type Reach, reachesOf, type Target } from "../state/giving";
import { countParts } from "../state/rows";
import { Swatch } from "../ui/Swatch";
import type { Stage } from "../viewport/stage";
import * as t from "../words/texts/desk/DragChip";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  stage?: Stage;
  edit: (change: Edit) => void;
}

interface Place {
  x: number;
  y: number;
  uids: string[];
  faces: FaceOf[];
}

const words = new Map<Reach, string>(REACHES);

/** A sample on its way from the shelf: what it would change lights up and is counted; arrow keys widen or narrow it. */
export function DragChip(props: Props) {
  const dragged = useDesk((state) => state.dragged);
  return dragged ? <Drag key={dragged.id} {...props} appearance={dragged} /> : null;
}

function Drag({ reviewId, model, standing, stage, edit, appearance }: Props & { appearance: Appearance }) {
  const [place, setPlace] = useState<Place>();
  const [wider, setWider] = useState(0);
  const target: Target = { model, standing, uids: place?.uids ?? [], faces: place?.faces ?? [] };
  const reaches = place?.uids.length ? reachesOf(target) : [];
  // A part is meant first, even where a face lies under the pointer.
  const start = Math.max(0, reaches.indexOf("parts"));
  const reach = reaches[Math.min(reaches.length - 1, Math.max(0, start + wider))];
  const wish = reach && givingEdit(appearance, reach, target);
  const would = useConsequence(reviewId, standing.seq, wish).data;
  const settled = wish !== undefined && would !== undefined;

  useEffect(() => {
    const stop = new AbortController();
    const options = { signal: stop.signal, capture: true };
    const end = () => useDesk.setState({ dragged: undefined, lit: undefined });
    window.addEventListener(
      "pointermove",
      (event) => setPlace({ x: event.clientX, y: event.clientY, ...under(event, stage) }),
      options,
    );
    window.addEventListener(
      "keydown",
      (event) => {
        if (event.key === "Escape") end();
        else if (event.key === "ArrowUp") setWider((now) => now + 1);
        else if (event.key === "ArrowDown") setWider((now) => now - 1);
        else return;
        event.preventDefault();
        event.stopPropagation();
      },
      options,
    );
    window.addEventListener("pointercancel", end, options);
    return () => stop.abort();
  }, [stage]);
  useEffect(() => {
    const drop = () => {
      if (wish) {
        noteSample(appearance.id);
        edit(wish);
      }
      useDesk.setState({ dragged: undefined, lit: undefined });
    };
    window.addEventListener("pointerup", drop, true);
    return () => window.removeEventListener("pointerup", drop, true);
  }, [wish, edit, appearance.id]);
  const lit = would?.changing;
  useEffect(() => {
    useDesk.setState({ lit: wish && lit ? new Set(lit) : undefined });
  }, [wish, lit]);

  if (!place) return null;
  return (
    <div
      role="status"
      className="pointer-events-none fixed z-50 max-w-72 rounded-md border border-ink bg-sheet px-2.5 py-1.5 shadow-lg"
      style={{ left: place.x + 14, top: place.y + 14 }}
    >
      <b className="flex items-center font-semibold">
        <Swatch appearance={appearance} />
        {appearance.name}
      </b>
      <span className="text-[12px]">
        {!reach && t.putItOnA}
        {settled &&
          reach &&
          t.ofChange(
            would.changing.length,
            countParts(would.meant),
            would.changing.length === 1 ? "s" : "",
            would.keeping.length ? t.keepTheirOwn(would.keeping.length) : "",
            String(words.get(reach)),
          )}
      </span>
      {reaches.length > 1 && <p className="why">{t.widerNarrowerEscapeTo}</p>}
    </div>
  );
}

/** What lies under the pointer: parts of a row or an appearance, or the part and face in the picture. */
function under(event: PointerEvent, stage?: Stage): { uids: string[]; faces: FaceOf[] } {
  const element = document.elementFromPoint(event.clientX, event.clientY);
  const row = element?.closest<HTMLElement>("[data-uids]");
  if (row) return { uids: row.dataset.uids!.split(" ").filter(Boolean), faces: [] };
  if (element instanceof HTMLCanvasElement && stage) {
    const box = element.getBoundingClientRect();
    const hit = stage.aim.pick(
      ((event.clientX - box.left) / box.width) * 2 - 1,
      1 - ((event.clientY - box.top) / box.height) * 2,
    );
    if (hit) return { uids: [hit.uid], faces: [{ uid: hit.uid, face: hit.face }] };
  }
  return { uids: [], faces: [] };
}
