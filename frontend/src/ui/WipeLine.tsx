import * as t from "../words/texts/ui/WipeLine";

interface Props {
  /** Percent from the left. */
  share: number;
  onShare: (share: number) => void;
  /** Of the field that is dragged. */
  className: string;
}

/** The line of a wipe over two pictures, moved by dragging or the arrow keys. */
export function WipeLine({ share, onShare, className }: Props) {
  return (
    <>
      <span
        aria-hidden="true"
        className="pointer-events-none absolute inset-y-0 w-[2px] -translate-x-1/2 bg-white shadow-[0_0_0_1px_#0006]"
        style={{ left: `${share}%` }}
      />
      <input
        type="range"
        aria-label={t.placeOfTheWipe}
        min={0}
        max={100}
        step={0.5}
        value={share}
        className={`absolute w-full cursor-ew-resize ${className}`}
        onChange={(event) => onShare(Number(event.target.value))}
      />
    </>
  );
}
