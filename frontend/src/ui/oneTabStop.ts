import { TypeAhead } from "./typeAhead";

/** What takes the keyboard within a row, or is one. */
const TAKES_KEYS = "button, a[href], input, select, [tabindex]";
const ROW = "[data-row]";
const IS_SELECTED = "[aria-pressed=true], [aria-checked=true], [aria-selected=true], [aria-current]";

/** Makes a list one tab stop, as its `ref`: arrows, Home, End and type-ahead go from row to row, Tab leaves it.
 * Rows are what is marked `data-row`, with the name that letters find; in a row that holds several buttons the first
 * takes the keyboard, and Tab goes on to the others. Beside one another, rows are gone through in two directions. */
export function oneTabStop(list: HTMLElement | null) {
  if (!list) return undefined;
  const typeAhead = new TypeAhead();
  let current: HTMLElement | undefined;

  const settle = () => {
    const rows = rowsOf(list);
    if (!current || !rows.includes(current)) current = rows.find(isSelected) ?? rows[0];
    for (const row of rows)
      for (const one of keysOf(row)) {
        const wanted = row === current ? 0 : -1;
        if (one.tabIndex !== wanted) one.tabIndex = wanted;
      }
  };
  const onFocus = ({ target }: FocusEvent) => {
    current = (target as Element).closest<HTMLElement>(ROW) ?? current;
    settle();
  };
  const onKey = (event: KeyboardEvent) => {
    const target = event.target as Element;
    const row = target.closest<HTMLElement>(ROW);
    if (!row || target.matches("input:not([type=checkbox]), textarea, select")) return;
    const rows = rowsOf(list);
    const names = rows.map((one) => one.dataset.row!);
    const ahead = typeAhead.find(event, names, rows.indexOf(row));
    const isPlain = !event.altKey && !event.ctrlKey && !event.metaKey && !event.shiftKey;
    const next = ahead === undefined ? isPlain && reached(event.key, rows, row) : rows[ahead];
    if (!next) return;
    keysOf(next)[0]?.focus();
    next.scrollIntoView({ block: "nearest" });
    event.preventDefault();
    event.stopPropagation();
  };

  const rowsThatComeAndGo = new MutationObserver(settle);
  rowsThatComeAndGo.observe(list, { childList: true, subtree: true, attributeFilter: ["disabled"] });
  list.addEventListener("focusin", onFocus);
  list.addEventListener("keydown", onKey);
  settle();
  return () => {
    rowsThatComeAndGo.disconnect();
    list.removeEventListener("focusin", onFocus);
    list.removeEventListener("keydown", onKey);
  };
}

const rowsOf = (list: HTMLElement) =>
  [...list.querySelectorAll<HTMLElement>(ROW)].filter((row) => keysOf(row).length > 0);

const keysOf = (row: HTMLElement) =>
  [row, ...row.querySelectorAll<HTMLElement>(TAKES_KEYS)].filter(
    (one) => one.matches(TAKES_KEYS) && !(one as HTMLButtonElement).disabled,
  );

const isSelected = (row: HTMLElement) => row.matches(IS_SELECTED) || row.querySelector(IS_SELECTED) !== null;

/** The row that a key leads to. */
function reached(key: string, rows: HTMLElement[], row: HTMLElement): HTMLElement | undefined {
  const at = rows.indexOf(row);
  if (key === "Home") return rows[0];
  if (key === "End") return rows.at(-1);
  if (key === "ArrowRight") return rows[at + 1];
  if (key === "ArrowLeft") return rows[at - 1];
  if (key !== "ArrowDown" && key !== "ArrowUp") return undefined;
  const from = row.getBoundingClientRect();
  const beyond = rows.filter((one) => {
    const { top, bottom } = one.getBoundingClientRect();
    return key === "ArrowDown" ? top >= from.bottom - 1 : bottom <= from.top + 1;
  });
  const distance = (one: HTMLElement) => {
    const to = one.getBoundingClientRect();
    // The line above or below comes first, whatever stands in it.
    return 100 * Math.abs(to.top - from.top) + Math.abs(to.left - from.left);
  };
  return beyond.sort((a, b) => distance(a) - distance(b))[0];
}
