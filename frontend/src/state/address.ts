import { type Sheet, useDesk } from "./deskStore";

const SHEETS: readonly string[] = ["parts", "appearances", "lights", "shots"] satisfies Sheet[];

interface Said {
  sheet: Sheet;
  shot?: string;
  filter: string;
  /** The still that is looked at. */
  shownStill?: string;
}

/** What of the desk an address says: sheet, shot, filter and still. What is as usual is left out. */
export function searchOf(desk: Said): string {
  const said = new URLSearchParams();
  if (desk.sheet !== "parts") said.set("sheet", desk.sheet);
  if (desk.shot) said.set("shot", desk.shot);
  if (desk.filter.trim()) said.set("filter", desk.filter);
  if (desk.shownStill) said.set("still", desk.shownStill);
  const text = said.toString();
  return text && `?${text}`;
}

export function deskOf(search: string): Partial<Said> {
  const said = new URLSearchParams(search);
  const sheet = said.get("sheet");
  return {
    ...(sheet && SHEETS.includes(sheet) && { sheet: sheet as Sheet }),
    ...(said.get("shot") && { shot: said.get("shot")! }),
    ...(said.get("filter") && { filter: said.get("filter")! }),
    ...(said.get("still") && { shownStill: said.get("still")! }),
  };
}

/** Opens the desk as the address says, and keeps the address up to date; returns what ends that. */
export function followAddress(): () => void {
  useDesk.setState(deskOf(window.location.search));
  return useDesk.subscribe((desk) => {
    const next = searchOf(desk);
    if (next !== window.location.search)
      window.history.replaceState(window.history.state, "", window.location.pathname + next);
  });
}
