import { Columns2, Copy, GripVertical, Lock, LockOpen, Trash2 } from "lucide-react";
import { useState } from "react";
import type { Edit, Shot, Standing, StillLine } from "../../api/client";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { copyShot, goToShot } from "../../state/shots";
import { IconButton } from "../../ui/controls";
import { NameField } from "../../ui/NameField";
import { Tile } from "../../ui/Tile";
import * as t from "../../words/texts/schedules/shots/ShotRow";
import { StateWords } from "./StillRow";

/** Pixels that a thumbnail may take. */
export const THUMB = { width: 112, height: 84 };
const DRAGGED = "application/x-shot";

/** The largest size of a shape within another. */
export function thumbSize(aspect: number, within: { width: number; height: number }) {
  const width = Math.min(within.width, within.height * aspect);
  return { width: Math.max(16, Math.round(width)), height: Math.max(16, Math.round(width / aspect)) };
}

interface Props {
  standing: Standing;
  id: string;
  place: number;
  picture?: ImageBitmap;
  /** Its latest still. */
  still?: StillLine;
  selected: boolean;
  onDesk: boolean;
  /** Another shot is being dragged over it. */
  isOver: boolean;
  onOver: (id: string | undefined) => void;
  onDropped: (dragged: string) => void;
  onMove: (id: string, by: 1 | -1) => void;
  edit: (change: Edit) => void;
}

/** One line of the schedule: click to show it, drag or Alt and an arrow to reorder. */
export function ShotRow(props: Props) {
  const { standing, id, place, picture, still, selected, onDesk, isOver, onOver, onDropped, onMove, edit } =
    props;
  const shot = standing.scene.shots[id] as Required<Shot>;
  const [renaming, setRenaming] = useState(false);
  const beside = useDesk((state) => state.besideShot);
  const set = (change: Partial<Shot>) => edit({ kind: "set_shot", id, shot: { ...shot, ...change } });
  const many = Object.keys(standing.scene.shots).length > 1;
  const remove = () => {
    edit({ kind: "set_shots", shots: { [id]: null } });
    toast(t.theShotIsRemoved(shot.name));
  };
  const size = thumbSize(shot.width / shot.height, THUMB);
  return (
    <li
      data-shot={id}
      data-row={shot.name}
      draggable={!renaming}
      className={`group relative border-b border-rule ${selected ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]" : "hover:bg-paper"} ${isOver ? "shadow-[inset_0_2px_0_var(--color-mark)]" : ""}`}
      onDragStart={(event) => {
        event.dataTransfer.setData(DRAGGED, id);
        event.dataTransfer.effectAllowed = "move";
      }}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        onOver(id);
      }}
      onDragLeave={() => onOver(undefined)}
      onDrop={(event) => {
        const dragged = event.dataTransfer.getData(DRAGGED);
        onOver(undefined);
        if (dragged) onDropped(dragged);
      }}
    >
      <button
        type="button"
        aria-pressed={selected}
        aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown F2"
        className="grid w-full cursor-pointer grid-cols-[18px_112px_1fr] gap-3 px-3 py-[11px] text-left"
        onClick={() => goToShot(standing, id)}
        onDoubleClick={() => setRenaming(true)}
        onKeyDown={(event) => {
          if (event.key === "F2") setRenaming(true);
          if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
            event.preventDefault();
            event.stopPropagation();
            onMove(id, event.key === "ArrowUp" ? -1 : 1);
          }
        }}
      >
        <span className="figures flex flex-col items-center gap-1">
          {place + 1}
          {many && <GripVertical size={12} className="text-ink-3 opacity-0 group-hover:opacity-100" />}
        </span>
        <span
          aria-hidden="true"
          className="grid h-[84px] place-items-center border border-rule-strong bg-mat"
        >
          <Tile picture={picture} {...size} />
        </span>
        <span className="min-w-0 pr-1">
          {!renaming && <b className="block truncate font-semibold">{shot.name}</b>}
          {renaming && <span className="block h-[19px]" />}
          <span className="figures">{lensWords(shot)}</span>
          <br />
          {still ? (
            <StateWords still={still} />
          ) : (
            <span className="why">{onDesk ? t.onTheDesk : t.noStillYet}</span>
          )}
          {shot.lighting && (
            <span className="why block truncate">{standing.scene.lightings[shot.lighting]?.name}</span>
          )}
          {shot.hidden.length > 0 && (
            <span className="why block">
              {t.hiddenHereOnly(shot.hidden.length, shot.hidden.length === 1 ? t.part : t.parts)}
            </span>
          )}
        </span>
      </button>
      {renaming && (
        <NameField
          label={t.nameOfTheShot}
          value={shot.name}
          autoFocus
          className="absolute top-[9px] right-3 left-[166px] border-b border-mark bg-transparent font-semibold outline-none"
          onCommit={(name) => set({ name })}
          onLeave={() => setRenaming(false)}
        />
      )}
      <div
        className={`absolute right-1.5 bottom-1 flex ${selected ? "" : "opacity-0 focus-within:opacity-100 group-hover:opacity-100"}`}
      >
        <IconButton
          label={beside === id ? t.noLongerBeside(shot.name) : t.showBesideTheDesk(shot.name)}
          hint={beside === id ? t.onlyTheDeskAgain : t.showItBesideThe}
          disabled={selected}
          onClick={() =>
            useDesk.setState({
              besideShot: beside === id ? undefined : id,
              beside: undefined,
              besideLighting: undefined,
            })
          }
        >
          <Columns2 size={13} className={beside === id ? "text-mark" : ""} />
        </IconButton>
        <IconButton
          label={shot.locked ? t.unlock(shot.name) : t.lock(shot.name)}
          hint={shot.locked ? t.lockedItCannotBe : t.lockItCannotBe}
          onClick={() => set({ locked: !shot.locked })}
        >
          {shot.locked ? <Lock size={13} className="text-ink" /> : <LockOpen size={13} />}
        </IconButton>
        <IconButton label={t.copy(shot.name)} hint={t.copy2} onClick={() => copyShot(standing, id, edit)}>
          <Copy size={13} />
        </IconButton>
        <IconButton
          label={t.remove(shot.name)}
          hint={many ? (shot.locked ? t.lockedUnlockItTo : t.remove2) : t.aReviewKeepsOne}
          disabled={!many || shot.locked}
          onClick={remove}
        >
          <Trash2 size={13} />
        </IconButton>
      </div>
    </li>
  );
}

/** "85 mm f/8 · 1600 x 1200" */
function lensWords({ camera, width, height }: Required<Shot>): string {
  const lens = camera.parallel ? "parallel" : t.mm(Math.round(camera.focal_length ?? 85));
  const stop = camera.f_number && !camera.parallel ? ` f/${camera.f_number}` : "";
  return `${lens}${stop} · ${width} x ${height}`;
}
