import { type KeyboardEvent, type PointerEvent, type ReactNode, useId } from "react";
import * as t from "../words/texts/desk/SideColumn";
import { fold, LIMITS, resetWidth, type Side, setWidth, useSides } from "./sides";

interface Props {
  side: Side;
  className: string;
  children: ReactNode;
}

/** Pixels that an arrow key moves an edge. */
const STEP = 16;

/** A side of the desk, with an edge that is dragged, or moved with the arrow keys. */
export function SideColumn({ side, className, children }: Props) {
  const { width, folded } = useSides((sides) => sides[side]);
  const id = useId();
  const column = (
    <div
      id={id}
      hidden={folded}
      className={`min-w-0 overflow-hidden bg-sheet ${className}`}
      style={{ flex: `0 1 ${width}px` }}
    >
      {children}
    </div>
  );
  return side === "left" ? (
    <>
      {column}
      <Edge {...{ side, id, width, folded }} />
    </>
  ) : (
    <>
      <Edge {...{ side, id, width, folded }} />
      {column}
    </>
  );
}

interface EdgeProps {
  side: Side;
  id: string;
  width: number;
  folded: boolean;
}

function Edge({ side, id, width, folded }: EdgeProps) {
  const [least, most] = LIMITS[side];
  const outward = side === "left" ? 1 : -1;
  const onMove = (event: PointerEvent<HTMLElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const desk = event.currentTarget.parentElement!.getBoundingClientRect();
    setWidth(side, side === "left" ? event.clientX - desk.left : desk.right - event.clientX);
  };
  const onKey = (event: KeyboardEvent) => {
    const now = folded ? 0 : width;
    const to: Record<string, number> = {
      ArrowRight: now + STEP * outward,
      ArrowLeft: now - STEP * outward,
      Home: least,
      End: most,
    };
    if (event.key === "Enter") fold(side);
    else if (to[event.key] === undefined) return;
    else if (folded) fold(side);
    // A step less than the least folds it away.
    else setWidth(side, to[event.key]! < least ? 0 : to[event.key]!);
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      role="separator"
      aria-label={side === "left" ? t.edgeOnTheLeft : t.edgeOnTheRight}
      aria-orientation="vertical"
      aria-controls={id}
      aria-valuemin={0}
      aria-valuemax={most}
      aria-valuenow={folded ? 0 : width}
      tabIndex={0}
      className="z-10 -mx-[1.5px] w-[3px] shrink-0 cursor-ew-resize touch-none hover:bg-mark/40 focus-visible:bg-mark active:bg-mark"
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={onMove}
      onDoubleClick={() => resetWidth(side)}
      onKeyDown={onKey}
    />
  );
}
