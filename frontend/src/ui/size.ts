/** A size as one reads it off a drawing: the smaller the whole, the more digits. */
export function sizeWords(millimetres: readonly number[]): string {
  const largest = Math.max(...millimetres);
  const digits = largest < 10 ? 2 : largest < 100 ? 1 : 0;
  return millimetres.map((v) => v.toFixed(digits)).join(" x ");
}
