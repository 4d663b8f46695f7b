import { ChevronDown, ChevronRight } from "lucide-react";
import { type MouseEvent, memo } from "react";
import type { PartState, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import type { PartActions } from "../../state/partActions";
import { countParts, type Row, summary } from "../../state/rows";
import { Hint } from "../../ui/Hint";
import { Swatch } from "../../ui/Swatch";
import * as t from "../../words/texts/schedules/parts/PartRow";
import type { Column } from "./columns";

export interface RowProps {
  row: Row;
  index: number;
  top: number;
  /** Of the grid. */
  template: string;
  columns: Column[];
  cells: string[];
  standing: Standing;
  chosen: boolean;
  onChoose: (index: number, how: { shift: boolean; ctrl: boolean }) => void;
  actions: PartActions;
  /** Whether Tab comes to it: one row of the list is. */
  reached: boolean;
  /** Whether the shot on the desk alone does not show it. */
  notHere: boolean;
}

export const PartRow = memo(function PartRow({
  row,
  index,
  top,
  template,
  columns,
  cells,
  standing,
  chosen,
  onChoose,
  actions,
  reached,
  notHere,
}: RowProps) {
  const found = summary(row, standing);
  const isGroup = row.kind === "group";
  const out = found.state === "suppressed";
  const pick = (event: MouseEvent) =>
    onChoose(index, { shift: event.shiftKey, ctrl: event.ctrlKey || event.metaKey });
  return (
    <div
      role="row"
      tabIndex={reached ? 0 : -1}
      data-index={index}
      data-uids={row.uids.join(" ")}
      aria-selected={chosen}
      aria-label={`${row.name}, ${countParts(row.uids.length)}`}
      className={`absolute inset-x-0 cursor-default select-none border-b grid items-center ${isGroup ? "h-[25px] border-rule font-semibold" : "h-[27px] border-row"} ${
        chosen
          ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]"
          : isGroup
            ? "bg-sunk"
            : "hover:bg-paper"
      } -outline-offset-2`}
      style={{ top, gridTemplateColumns: template }}
      onClick={pick}
      onKeyDown={(event) => {
        if (event.key === " " || event.key === "Enter")
          onChoose(index, { shift: false, ctrl: event.ctrlKey });
      }}
      onPointerEnter={() => row.uids.length === 1 && useDesk.setState({ hovered: row.uids[0] })}
      onPointerLeave={() => useDesk.setState({ hovered: undefined })}
    >
      {isGroup ? (
        <span
          role="cell"
          className="flex min-w-0 items-center"
          style={{ paddingLeft: 4 + row.depth * 14, gridColumn: `span ${3 + columns.length}` }}
        >
          <button
            type="button"
            aria-label={row.folded ? t.unfold(row.name) : t.fold(row.name)}
            className="mr-0.5 grid h-5 w-5 shrink-0 cursor-pointer place-items-center text-ink-2"
            onClick={(event) => {
              event.stopPropagation();
              useDesk.getState().fold(row.id);
            }}
          >
            {row.folded ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
          </button>
          <span className="truncate">{row.name}</span>
          <span className="why ml-1.5 whitespace-nowrap font-normal">· {countParts(row.uids.length)}</span>
        </span>
      ) : (
        <>
          <span
            role="cell"
            title={row.name}
            className={`flex min-w-0 items-center ${out ? "text-ink-3 line-through" : ""}`}
            style={{ paddingLeft: 10 + row.depth * 14 }}
          >
            <Swatch appearance={found.appearance} nothing={found.why === "nothing yet"} />
            <span className="truncate">{row.name}</span>
          </span>
          <span role="cell" className={`figures ${out ? "text-ink-3 line-through" : ""}`}>
            {row.uids.length}
          </span>
          {cells.map((text, place) => (
            <span
              role="cell"
              key={columns[place]!.id}
              title={text}
              className={`truncate pr-2 ${columns[place]!.number ? "figures text-right" : "why"} ${text === "several" ? "text-ink-3 italic" : ""}`}
            >
              {text}
            </span>
          ))}
          <span role="cell" className="flex min-w-0">
            {notHere ? <span className="why truncate">{t.notInThisShot}</span> : <WhyCell found={found} />}
          </span>
        </>
      )}
      <span role="cell" className="justify-self-center">
        <StateDot state={found.state} row={row} actions={actions} />
      </span>
    </div>
  );
});

function WhyCell({ found }: { found: ReturnType<typeof summary> }) {
  if (found.state === "suppressed") return <span className="why truncate">{t.suppressed}</span>;
  if (!found.appearance) return <span className="why truncate">{t.different(found.several)}</span>;
  if (found.why === "nothing yet") return <span className="truncate text-warn">{t.noAppearanceYet}</span>;
  if (found.why === "from CAD") return <span className="why truncate">{t.cadColour}</span>;
  if (found.why === "stands for a colour from CAD")
    return (
      <span className="truncate">
        {found.appearance.name} <span className="why">{t.forACadColour}</span>
      </span>
    );
  return <span className="truncate">{found.appearance.name}</span>;
}

const STATE_WORDS: Record<PartState | "shown" | "mixed", string> = {
  shown: t.shownClickToHide,
  hidden: t.hiddenClickToShow,
  suppressed: t.suppressedClickToBring,
  mixed: t.someAreNotShown,
};

function StateDot({
  state,
  row,
  actions,
}: {
  state: keyof typeof STATE_WORDS;
  row: Row;
  actions: PartActions;
}) {
  const look = {
    shown: "bg-ink",
    hidden: "border-[1.5px] border-ink bg-transparent",
    suppressed: "border-[1.5px] border-ink-3 border-dotted",
    mixed: "bg-[linear-gradient(90deg,var(--color-ink)_50%,transparent_50%)] border-[1.5px] border-ink",
  }[state];
  return (
    <Hint text={STATE_WORDS[state]}>
      <button
        type="button"
        aria-label={`${row.name}: ${STATE_WORDS[state]}`}
        className="grid h-6 w-6 cursor-pointer place-items-center justify-self-center"
        onClick={(event) => {
          event.stopPropagation();
          actions.set(row.uids, state === "shown" ? "hidden" : null);
        }}
      >
        <span className={`block h-[9px] w-[9px] rounded-full ${look}`} />
      </button>
    </Hint>
  );
}
