import { Plus } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link } from "wouter";
import type { Edit, Shot, Standing, StillLine } from "../../api/client";
import { type TileWish, useTiles } from "../../api/tiles";
import { useDesk } from "../../state/deskStore";
import { addShot, moveShot, shotsInOrder } from "../../state/shots";
import { Hint } from "../../ui/Hint";
import { oneTabStop } from "../../ui/oneTabStop";
import * as t from "../../words/texts/schedules/shots/ShotsSheet";
import { ShotRow, THUMB, thumbSize } from "./ShotRow";
import { StillRow } from "./StillRow";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  stills: StillLine[];
  edit: (change: Edit) => void;
}

/** Names this tab's thumbnails to the lamp, which keeps one scene for all of them. */
const THUMBS = crypto.randomUUID();

/** The schedule of shots, and the stills of the one on the desk. */
export function ShotsSheet({ reviewId, standing, shotId, stills, edit }: Props) {
  const { shots } = standing.scene;
  const order = shotsInOrder(shots);
  const shown = useDesk((state) => state.shownStill);
  const sheet = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState<string>();
  const pictures = useThumbs(reviewId, standing);
  const move = (id: string, by: 1 | -1) => moveShot(standing, id, order.indexOf(id) + by, edit);
  const own = stills.filter((still) => still.shot_id === shotId);
  // The selected row follows a shot that was just added at the end.
  useEffect(() => {
    sheet.current?.querySelector(`[data-shot="${shotId}"]`)?.scrollIntoView({ block: "nearest" });
  }, [shotId]);
  return (
    <div ref={sheet} className="min-h-0 flex-1 overflow-y-auto">
      <ul ref={oneTabStop} aria-label={t.shots}>
        {order.map((id, place) => (
          <ShotRow
            key={id}
            {...{ standing, id, place, edit }}
            picture={pictures.get(id)}
            still={stills.find((still) => still.shot_id === id)}
            selected={id === shotId}
            onDesk={id === shotId && shown === undefined}
            isOver={over === id}
            onOver={setOver}
            onDropped={(dragged) => moveShot(standing, dragged, place, edit)}
            onMove={move}
          />
        ))}
      </ul>
      <Hint text={t.aFurtherShotOtherwise} keys="V">
        <button
          type="button"
          className="flex w-full cursor-pointer items-center gap-1.5 border-b border-rule px-3 py-2.5 font-medium text-mark hover:bg-paper"
          onClick={() => {
            const { view } = useDesk.getState();
            if (view) addShot(standing, shotId, view, edit);
          }}
        >
          <Plus size={14} /> {t.saveThisViewAs}
        </button>
      </Hint>
      <h3 className="cap flex justify-between border-b border-rule bg-sunk px-3 py-[7px]">
        <span>
          {t.stillsOfThisShot} <span className="figures ml-1 normal-case tracking-normal">{own.length}</span>
        </span>
        <Link
          href={`/reviews/${reviewId}/stills`}
          className="font-sans text-[12px] font-medium text-mark normal-case tracking-normal hover:underline"
        >
          {t.allStills(stills.length)}
        </Link>
      </h3>
      {own.length === 0 && (
        <p className="p-4 text-ink-2">
          {t.noStillHasBeen} <b className="font-semibold">{t.takeStill}</b> {t.tracesTheShotThe}
        </p>
      )}
      <div ref={oneTabStop}>
        {own.map((still) => (
          <StillRow key={still.id} reviewId={reviewId} still={still} shown={shown === still.id} />
        ))}
      </div>
    </div>
  );
}

/** Every shot, traced small, by id. */
function useThumbs(reviewId: string, standing: Standing) {
  const { shots } = standing.scene;
  // A new name or place is no other picture.
  const key = JSON.stringify(
    shotsInOrder(shots).map((id) => {
      const { camera, width, height } = shots[id] as Required<Shot>;
      return [id, camera, thumbSize(width / height, THUMB)];
    }),
  );
  const wishes = useMemo(
    () =>
      (JSON.parse(key) as [string, TileWish["camera"], { width: number; height: number }][]).map(
        ([shot, camera, size]): TileWish => ({ key: shot, shot, camera, ...size }),
      ),
    [key],
  );
  return useTiles(reviewId, standing.seq, THUMBS, wishes);
}
