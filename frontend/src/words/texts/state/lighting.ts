/** Words of state/lighting.ts. */
export const roundPanel = (width: string | number) => `round panel ${width}`;
export const panelX = (width: string | number, height: string | number) => `panel ${width} x ${height}`;
export const tube = (lamp: string | number) => `tube ${lamp}`;
export const spot = (outer: string | number) => `spot ${outer}°`;
export const pointLm = (lumen: string | number) => `point, ${lumen} lm`;
export const bulbs = (columns: string | number) => `${columns} bulbs`;
export const byItsPhotometricFile = "by its photometric file";
export const cardX = (surface: string | number, width: string | number, height: string | number) =>
  `${surface} card ${width} x ${height}`;
export const farAwayHigh = (elevation: string | number) => `far away, ${elevation}° high`;
