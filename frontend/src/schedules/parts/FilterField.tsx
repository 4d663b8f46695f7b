import { ListFilter, Search, X } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { type FilterField as Field, filterParts, useFields } from "../../api/assembly";
import type { Edit, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, IconButton } from "../../ui/controls";
import * as t from "../../words/texts/schedules/parts/FilterField";
import { completed, completions, term } from "./filterWords";

interface Props {
  reviewId: string;
  standing: Standing;
  problem?: string | null;
  edit: (change: Edit) => void;
  /** Down goes from the field into the list. */
  onDown: () => void;
}

/** The filter: words and `field:value`, completed as one types, or put together by pointer; and those that were kept. */
export function FilterField({ reviewId, standing, problem, edit, onDown }: Props) {
  const filter = useDesk((state) => state.filter);
  const fields = useFields(reviewId, standing.seq).data ?? [];
  const [typing, setTyping] = useState(false);
  const [marked, setMarked] = useState(-1);
  const offers = typing ? completions(filter, fields) : [];
  const set = (text: string) => {
    useDesk.setState({ filter: text });
    setMarked(-1);
  };
  return (
    <div className="relative min-w-0 flex-1">
      <label
        className={`flex h-7 items-center gap-2 rounded-md border bg-white px-2 text-ink-3 focus-within:outline-2 focus-within:outline-mark ${problem ? "border-stop" : "border-rule-strong"}`}
      >
        <Search size={14} aria-hidden="true" />
        <input
          id="parts-filter"
          aria-label={t.filterParts}
          aria-description={t.wordsOfTheName}
          placeholder={t.screwSize5}
          autoComplete="off"
          className="min-w-0 flex-1 bg-transparent text-ink outline-none"
          value={filter}
          onFocus={() => setTyping(true)}
          onBlur={() => setTimeout(() => setTyping(false), 150)}
          onChange={(event) => set(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            const field = event.currentTarget;
            if (event.key === "ArrowDown" && offers.length) {
              event.preventDefault();
              setMarked((marked + 1) % offers.length);
            } else if (event.key === "ArrowDown") {
              event.preventDefault();
              onDown();
            } else if ((event.key === "Tab" || event.key === "Enter") && offers[marked]) {
              event.preventDefault();
              set(completed(filter, offers[marked]));
            } else if (event.key === "Escape") set("");
            else if (event.key === "Enter") {
              chooseFiltered(reviewId, standing, field.value);
              // Leave the field, so that the keys act on what was chosen.
              field.blur();
            }
          }}
        />
        {filter && (
          <button type="button" aria-label={t.clearTheFilter} onClick={() => set("")}>
            <X size={13} />
          </button>
        )}
        <ByPointer fields={fields} standing={standing} edit={edit} />
      </label>
      {problem && <p className="why mt-1 !text-stop">{problem}</p>}
      {offers.length > 0 && (
        <ul className="absolute inset-x-0 top-8 z-20 max-h-56 overflow-y-auto rounded-md border border-rule-strong bg-sheet py-1 shadow-lg">
          {offers.map((offer, index) => (
            <li key={offer}>
              <button
                type="button"
                tabIndex={-1}
                className={`block w-full cursor-pointer truncate px-3 py-0.5 text-left ${index === marked ? "bg-mark-soft" : "hover:bg-paper"}`}
                onPointerDown={(event) => {
                  event.preventDefault();
                  set(completed(filter, offer));
                }}
              >
                {offer}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

async function chooseFiltered(reviewId: string, standing: Standing, text: string) {
  const uids = text.trim() ? (await filterParts(reviewId, text)).uids : Object.keys(standing.worn);
  useDesk.getState().choose(uids);
}

/** A filter built by pointer, and the kept ones. */
function ByPointer({
  fields,
  standing,
  edit,
}: {
  fields: Field[];
  standing: Standing;
  edit: (change: Edit) => void;
}) {
  const filter = useDesk((state) => state.filter);
  const [name, setName] = useState("material");
  const [value, setValue] = useState("");
  const [kept, setKept] = useState("");
  const field = fields.find((one) => one.name === name) ?? fields[0];
  const add = (made: string) => useDesk.setState({ filter: `${filter} ${made}`.trim() });
  const filters = Object.entries(standing.scene.filters);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={t.buildAFilter}
          className="cursor-pointer text-ink-2 hover:text-ink"
        >
          <ListFilter size={14} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={t.buildAFilter}
          align="start"
          sideOffset={8}
          className="z-30 flex w-72 flex-col gap-2 rounded-md border border-rule-strong bg-sheet p-3 shadow-lg"
          onKeyDown={(event) => event.stopPropagation()}
        >
          <span className="cap">{t.addToTheFilter}</span>
          <div className="flex gap-2">
            <select
              aria-label={t.field}
              className="h-7 min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-1"
              value={field?.name}
              onChange={(event) => {
                setName(event.target.value);
                setValue("");
              }}
            >
              {fields.map((one) => (
                <option key={one.name}>{one.name}</option>
              ))}
            </select>
            {field?.kind === "number" ? (
              <input
                aria-label={t.number}
                inputMode="decimal"
                placeholder="< 5"
                className="h-7 w-24 rounded-md border border-rule-strong bg-white px-2"
                value={value}
                onChange={(event) => setValue(event.target.value)}
              />
            ) : (
              <select
                aria-label={t.value}
                className="h-7 w-32 rounded-md border border-rule-strong bg-white px-1"
                value={value}
                onChange={(event) => setValue(event.target.value)}
              >
                <option value="">…</option>
                {field?.values.map((one) => (
                  <option key={one}>{one}</option>
                ))}
              </select>
            )}
          </div>
          <div className="flex gap-2">
            <Button disabled={!value || !field} onClick={() => add(term(field!, value, false))}>
              {t.onlyThese}
            </Button>
            <Button disabled={!value || !field} onClick={() => add(term(field!, value, true))}>
              {t.notThese}
            </Button>
          </div>
          <span className="cap mt-1">{t.keptFilters}</span>
          {filters.map(([title, text]) => (
            <div key={title} className="flex items-center">
              <button
                type="button"
                className="min-w-0 flex-1 cursor-pointer truncate text-left hover:text-mark"
                onClick={() => useDesk.setState({ filter: text })}
              >
                {title} <span className="why">{text}</span>
              </button>
              <IconButton
                label={t.dropTheFilter(title)}
                className="!h-5 !w-5"
                onClick={() => edit({ kind: "set_filters", filters: { [title]: null } })}
              >
                <X size={12} />
              </IconButton>
            </div>
          ))}
          {filter ? (
            <form
              className="flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (kept.trim()) edit({ kind: "set_filters", filters: { [kept.trim()]: filter } });
                setKept("");
              }}
            >
              <input
                aria-label={t.nameForThisFilter}
                placeholder={t.nameForThisFilter2}
                maxLength={60}
                className="h-7 min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-2"
                value={kept}
                onChange={(event) => setKept(event.target.value)}
              />
              <Button type="submit" disabled={!kept.trim()}>
                {t.keep}
              </Button>
            </form>
          ) : (
            filters.length === 0 && <p className="why">{t.filterThePartsThen}</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
