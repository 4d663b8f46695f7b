/** Words of desk/DragChip.tsx. */
export const putItOnA = "Put it on a part, a row or another appearance";
export const keepTheirOwn = (keeping: string | number) => `, ${keeping} keep their own`;
export const ofChange = (
  changing: string | number,
  parts: string | number,
  what: string | number,
  what2: string | number,
  value: string | number,
) => `${changing} of ${parts} change${what}${what2} · ${value}`;
export const widerNarrowerEscapeTo = "↑ wider, ↓ narrower, Escape to leave it";
