import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, memo, useCallback, useMemo, useRef, useState } from "react";
import { useFiltered } from "../../api/assembly";
import type { Edit, Model, Standing } from "../../api/client";
import { type Grouping, useDesk } from "../../state/deskStore";
import type { PartActions } from "../../state/partActions";
import { rowsOf } from "../../state/rows";
import { useShotId } from "../../state/shots";
import { Button } from "../../ui/controls";
import { TypeAhead } from "../../ui/typeAhead";
import * as t from "../../words/texts/schedules/parts/PartsSheet";
import { FirstCoatNotice } from "../appearances/FirstCoat";
import { ChosenBar } from "./ChosenBar";
import { ColumnPicker } from "./ColumnPicker";
import { type Column, cell, columnsOf } from "./columns";
import { FilterField } from "./FilterField";
import { PartRow } from "./PartRow";

interface Props {
  reviewId: string;
  model: Model;
  edit: (change: Edit) => void;
  standing: Standing;
  actions: PartActions;
}

const GROUPINGS: [Grouping, string][] = [
  ["same part", t.bySamePart],
  ["same shape", t.bySameShape],
  ["structure", t.byStructure],
  ["appearance", t.byAppearance],
  ["material", t.byMaterial],
  ["layer", t.byLayer],
];

const NO_CELLS: string[] = [];

const templateOf = (columns: Column[]) =>
  `minmax(${columns.length ? 150 : 0}px,1.15fr) 34px ${columns.map((column) => `${column.width}px`).join(" ")} minmax(${columns.length ? 110 : 0}px,1fr) 30px`;

/** The schedule of parts: filter, group, choose, and what can be done with what is chosen. */
export const PartsSheet = memo(function PartsSheet({ reviewId, model, standing, actions, edit }: Props) {
  const { filter, grouping, folded, chosen } = useDesk();
  const shownColumns = useDesk((state) => state.columns);
  const answer = useFiltered(reviewId, filter, standing.seq).data;
  const passed = useMemo(
    () => (filter.trim() && answer && !answer.problem ? new Set(answer.uids) : undefined),
    [filter, answer],
  );
  const rows = useMemo(
    () => rowsOf(model, standing, passed, grouping, folded),
    [model, standing, passed, grouping, folded],
  );
  const columns = useMemo(
    () => columnsOf(model).filter((column) => shownColumns.includes(column.id)),
    [model, shownColumns],
  );
  const nodes = useMemo(() => new Map(model.nodes.map((node) => [node.uid, node])), [model]);
  const template = templateOf(columns);
  const shotId = useShotId(standing);
  const hiddenHere = useMemo(
    () => new Set(standing.scene.shots[shotId]?.hidden),
    [standing.scene.shots, shotId],
  );
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef(0);
  const typeAhead = useRef(new TypeAhead());
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (rows[index]!.kind === "group" ? 25 : 27),
    overscan: 12,
  });

  const choose = useCallback(
    (index: number, how: { shift: boolean; ctrl: boolean }) => {
      const desk = useDesk.getState();
      if (how.shift) {
        const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
        const uids = rows.slice(from, to + 1).flatMap((row) => row.uids);
        desk.choose(how.ctrl ? [...desk.chosen, ...uids] : uids);
        return;
      }
      anchor.current = index;
      if (how.ctrl) desk.toggle(rows[index]!.uids);
      else desk.choose(rows[index]!.uids);
    },
    [rows],
  );
  const [reached, setReached] = useState(0);
  const goTo = (next: number, shift: boolean) => {
    list.scrollToIndex(next);
    setReached(next);
    choose(next, { shift, ctrl: false });
    focusRow(next, 20);
  };
  /** A row that was far away is there some frames later. */
  const focusRow = (index: number, tries: number) =>
    requestAnimationFrame(() => {
      const row = scroller.current?.querySelector<HTMLElement>(`[data-index="${index}"]`);
      if (row) row.focus();
      else if (tries > 0) focusRow(index, tries - 1);
    });
  const onKey = (event: KeyboardEvent) => {
    const last = rows.length - 1;
    const focused = Number((document.activeElement as HTMLElement | null)?.dataset.index ?? -1);
    const steps = { ArrowDown: focused + 1, ArrowUp: focused - 1, Home: 0, End: last };
    const names = rows.map((row) => row.name);
    const ahead = typeAhead.current.find(event.nativeEvent, names, focused);
    const next = ahead ?? steps[event.key as keyof typeof steps];
    if (next === undefined || last < 0) return;
    event.preventDefault();
    goTo(Math.min(last, Math.max(0, next)), event.shiftKey && ahead === undefined);
  };

  return (
    <>
      <FirstCoatNotice standing={standing} />
      <div className="flex items-center gap-2 border-b border-rule px-3 py-2">
        <FilterField
          {...{ reviewId, standing, edit }}
          onDown={() => rows.length > 0 && goTo(0, false)}
          problem={filter.trim() ? answer?.problem : undefined}
        />
        <select
          aria-label={t.groupParts}
          className="h-7 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5 font-narrow text-[12px] font-medium"
          value={grouping}
          onChange={(event) => useDesk.setState({ grouping: event.target.value as Grouping })}
        >
          {GROUPINGS.map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
        </select>
        <ColumnPicker model={model} />
      </div>
      <div
        ref={scroller}
        className={`relative min-h-0 flex-1 overflow-y-auto ${columns.length ? "overflow-x-auto" : "overflow-x-hidden"}`}
        onKeyDown={onKey}
        role="grid"
        aria-label={t.parts}
        aria-multiselectable="true"
        tabIndex={-1}
      >
        <div
          className="cap sticky top-0 z-10 grid items-center border-b border-rule bg-sheet py-[7px]"
          style={{ gridTemplateColumns: template, minWidth: "min-content" }}
        >
          <span className="pl-3">{t.part}</span>
          <span>{t.qty}</span>
          {columns.map((column) => (
            <span key={column.id} className={`truncate pr-2 ${column.number ? "text-right" : ""}`}>
              {column.title}
            </span>
          ))}
          <span>{t.appearanceWhy}</span>
          <span />
        </div>
        {rows.length === 0 && (
          <p className="p-4 text-ink-2">
            {t.noPartPasses(filter)}{" "}
            <Button look="text" onClick={() => useDesk.setState({ filter: "" })}>
              {t.showAllParts}
            </Button>
          </p>
        )}
        <div
          style={{
            height: list.getTotalSize(),
            position: "relative",
            minWidth: columns.length ? columns.reduce((sum, column) => sum + column.width, 324) : undefined,
          }}
        >
          {list.getVirtualItems().map((item) => (
            <PartRow
              key={rows[item.index]!.id}
              row={rows[item.index]!}
              index={item.index}
              top={item.start}
              template={template}
              columns={columns}
              cells={
                rows[item.index]!.kind === "group"
                  ? NO_CELLS
                  : columns.map((column) => cell(column, rows[item.index]!.uids, nodes, model, standing))
              }
              standing={standing}
              chosen={rows[item.index]!.uids.every((uid) => chosen.has(uid))}
              onChoose={choose}
              actions={actions}
              notHere={hiddenHere.size > 0 && rows[item.index]!.uids.every((uid) => hiddenHere.has(uid))}
              reached={item.index === Math.min(reached, rows.length - 1)}
            />
          ))}
        </div>
      </div>
      <ChosenBar model={model} standing={standing} actions={actions} />
    </>
  );
});
