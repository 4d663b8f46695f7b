import { useVirtualizer } from "@tanstack/react-virtual";
import { ChevronDown, ChevronRight, Search, X } from "lucide-react";
import { type KeyboardEvent, type MouseEvent, useMemo, useRef } from "react";
import type { Model, PartState, Standing } from "../../api/client";
import { type Grouping, useDesk } from "../../desk/deskStore";
import type { PartActions } from "../../desk/partActions";
import { Button, Hint, IconButton } from "../../ui/controls";
import { Swatch } from "../../ui/Swatch";
import { countParts, type Row, rowsOf, summary } from "./rows";

interface Props {
  model: Model;
  standing: Standing;
  actions: PartActions;
}

const COLUMNS = "grid grid-cols-[minmax(0,1.15fr)_34px_minmax(0,1fr)_30px] items-center";

/** The schedule of parts: filter, group, choose, and what can be done with what is chosen. */
export function PartsSheet({ model, standing, actions }: Props) {
  const { filter, grouping, folded, chosen } = useDesk();
  const rows = useMemo(() => rowsOf(model, filter, grouping, folded), [model, filter, grouping, folded]);
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef(0);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (rows[index]!.kind === "group" ? 25 : 27),
    overscan: 12,
  });

  const choose = (index: number, how: { shift: boolean; ctrl: boolean }) => {
    const desk = useDesk.getState();
    if (how.shift) {
      const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
      const uids = rows.slice(from, to + 1).flatMap((row) => row.uids);
      desk.choose(how.ctrl ? [...chosen, ...uids] : uids);
      return;
    }
    anchor.current = index;
    if (how.ctrl) desk.toggle(rows[index]!.uids);
    else desk.choose(rows[index]!.uids);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const focused = Number((document.activeElement as HTMLElement | null)?.dataset.index ?? -1);
    const next = Math.min(rows.length - 1, Math.max(0, focused + step));
    list.scrollToIndex(next);
    choose(next, { shift: event.shiftKey, ctrl: false });
    requestAnimationFrame(() =>
      scroller.current?.querySelector<HTMLElement>(`[data-index="${next}"]`)?.focus(),
    );
  };

  return (
    <>
      <div className="flex items-center gap-2 border-b border-rule px-3 py-2">
        <label className="flex h-7 min-w-0 flex-1 items-center gap-2 rounded-md border border-rule-strong bg-white px-2 text-ink-3 focus-within:outline-2 focus-within:outline-mark">
          <Search size={14} aria-hidden="true" />
          <input
            id="parts-filter"
            aria-label="Filter parts by name"
            placeholder="name…"
            className="min-w-0 flex-1 bg-transparent text-ink outline-none"
            value={filter}
            onChange={(event) => useDesk.setState({ filter: event.target.value })}
            onKeyDown={(event) => {
              if (event.key === "Escape") useDesk.setState({ filter: "" });
              if (event.key === "Enter") {
                useDesk.getState().choose(rows.flatMap((row) => row.uids));
                // Leave the field, so that the keys act on what was chosen.
                event.currentTarget.blur();
              }
              event.stopPropagation();
            }}
          />
          {filter && (
            <button
              type="button"
              aria-label="Clear the filter"
              onClick={() => useDesk.setState({ filter: "" })}
            >
              <X size={13} />
            </button>
          )}
        </label>
        <select
          aria-label="Group parts"
          className="h-7 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5 font-narrow text-[12px] font-medium"
          value={grouping}
          onChange={(event) => useDesk.setState({ grouping: event.target.value as Grouping })}
        >
          <option value="same part">by same part</option>
          <option value="structure">by structure</option>
        </select>
      </div>
      <div className={`${COLUMNS} cap border-b border-rule py-[7px]`}>
        <span className="pl-3">Part</span>
        <span>Qty</span>
        <span>Appearance · why</span>
      </div>
      <div
        ref={scroller}
        className="relative min-h-0 flex-1 overflow-y-auto"
        onKeyDown={onKey}
        role="grid"
        aria-label="Parts"
        aria-multiselectable="true"
        tabIndex={-1}
      >
        {rows.length === 0 && (
          <p className="p-4 text-ink-2">
            No part is called like “{filter}”.{" "}
            <Button look="text" onClick={() => useDesk.setState({ filter: "" })}>
              Show all parts
            </Button>
          </p>
        )}
        <div style={{ height: list.getTotalSize(), position: "relative" }}>
          {list.getVirtualItems().map((item) => (
            <PartRow
              key={rows[item.index]!.id}
              row={rows[item.index]!}
              index={item.index}
              top={item.start}
              standing={standing}
              chosen={rows[item.index]!.uids.every((uid) => chosen.has(uid))}
              onChoose={choose}
              actions={actions}
            />
          ))}
        </div>
      </div>
      <ChosenBar model={model} standing={standing} actions={actions} />
    </>
  );
}

interface RowProps {
  row: Row;
  index: number;
  top: number;
  standing: Standing;
  chosen: boolean;
  onChoose: (index: number, how: { shift: boolean; ctrl: boolean }) => void;
  actions: PartActions;
}

function PartRow({ row, index, top, standing, chosen, onChoose, actions }: RowProps) {
  const found = summary(row, standing);
  const isGroup = row.kind === "group";
  const out = found.state === "suppressed";
  const pick = (event: MouseEvent) =>
    onChoose(index, { shift: event.shiftKey, ctrl: event.ctrlKey || event.metaKey });
  return (
    <div
      role="row"
      tabIndex={0}
      data-index={index}
      aria-selected={chosen}
      aria-label={`${row.name}, ${countParts(row.uids.length)}`}
      className={`absolute inset-x-0 cursor-default select-none border-b ${COLUMNS} ${isGroup ? "h-[25px] border-rule font-semibold" : "h-[27px] border-row"} ${
        chosen
          ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]"
          : isGroup
            ? "bg-sunk"
            : "hover:bg-paper"
      } -outline-offset-2`}
      style={{ top }}
      onClick={pick}
      onKeyDown={(event) => {
        if (event.key === " " || event.key === "Enter")
          onChoose(index, { shift: false, ctrl: event.ctrlKey });
      }}
      onPointerEnter={() => row.uids.length === 1 && useDesk.setState({ hovered: row.uids[0] })}
      onPointerLeave={() => useDesk.setState({ hovered: undefined })}
    >
      {isGroup ? (
        <span className="col-span-3 flex min-w-0 items-center" style={{ paddingLeft: 4 + row.depth * 14 }}>
          <button
            type="button"
            aria-label={row.folded ? `Unfold ${row.name}` : `Fold ${row.name}`}
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
            className={`flex min-w-0 items-center ${out ? "text-ink-3 line-through" : ""}`}
            style={{ paddingLeft: 10 + row.depth * 14 }}
          >
            <Swatch appearance={found.appearance} nothing={found.why === "nothing yet"} />
            <span className="truncate">{row.name}</span>
          </span>
          <span className={`figures ${out ? "text-ink-3 line-through" : ""}`}>{row.uids.length}</span>
          <WhyCell found={found} />
        </>
      )}
      <StateDot state={found.state} row={row} actions={actions} />
    </div>
  );
}

function WhyCell({ found }: { found: ReturnType<typeof summary> }) {
  if (found.state === "suppressed") return <span className="why truncate">suppressed</span>;
  if (!found.appearance) return <span className="why truncate">{found.several} different</span>;
  if (found.why === "nothing yet") return <span className="truncate text-warn">nothing yet</span>;
  if (found.why === "from CAD") return <span className="why truncate">from CAD</span>;
  return <span className="truncate">{found.appearance.name}</span>;
}

const STATE_WORDS: Record<PartState | "shown" | "mixed", string> = {
  shown: "Shown. Click to hide",
  hidden: "Hidden. Click to show",
  suppressed: "Suppressed. Click to bring back",
  mixed: "Some are not shown. Click to show all",
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

function ChosenBar({ model, standing, actions }: Props) {
  const chosen = useDesk((state) => state.chosen);
  const uids = [...chosen];
  const states = standing.scene.states ?? {};
  const hidden = Object.values(states).filter((state) => state === "hidden").length;
  const waiting = model.hidden_in_cad.filter((uid) => states[uid] === "suppressed");
  if (uids.length === 0) {
    if (hidden + waiting.length === 0) return null;
    return (
      <div className="flex min-h-[45px] items-center gap-2 border-t border-rule-strong bg-sheet px-3 py-2">
        <span className="min-w-0 flex-1">
          {hidden > 0
            ? `${countParts(hidden)} hidden`
            : `${countParts(waiting.length)} hidden in CAD, suppressed`}
        </span>
        {hidden > 0 ? (
          <Hint text="Show every hidden part" keys="Shift H">
            <Button look="mark" onClick={() => actions.showHidden()}>
              Show all
            </Button>
          </Hint>
        ) : (
          <Button look="mark" onClick={() => actions.set(waiting, null)}>
            Bring back
          </Button>
        )}
      </div>
    );
  }
  const allOut = uids.every((uid) => states[uid] === "suppressed");
  const allHidden = uids.every((uid) => states[uid] !== undefined);
  return (
    <div className="flex min-h-[45px] items-center gap-2 border-t border-rule-strong bg-mark-soft px-3 py-2">
      <b className="figures font-semibold">{uids.length}</b>
      <span className="min-w-0 flex-1 truncate">chosen</span>
      {!allOut && (
        <Hint text={allHidden ? "Show what is chosen" : "Hide what is chosen"} keys="H">
          <Button look="mark" onClick={() => actions.hide()}>
            {allHidden ? "Show" : "Hide"}
          </Button>
        </Hint>
      )}
      <Hint text="Hide everything else" keys="O">
        <Button look="mark" onClick={() => actions.only()}>
          Only these
        </Button>
      </Hint>
      <Hint text={allOut ? "Bring back into the model" : "Leave out of everything that is computed"} keys="S">
        <Button look="mark" onClick={() => actions.suppress()}>
          {allOut ? "Bring back" : "Suppress"}
        </Button>
      </Hint>
      <IconButton label="Choose nothing" keys="Esc" onClick={() => useDesk.getState().choose([])}>
        <X size={15} />
      </IconButton>
    </div>
  );
}
