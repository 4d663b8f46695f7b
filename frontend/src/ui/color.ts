/** IEC 61966-2-1, for showing and picking colours; the core keeps them linear. */
export function toHex(linear: readonly number[]): string {
  const channel = (v: number) => {
    const c = Math.min(1, Math.max(0, v));
    const encoded = c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055;
    return Math.round(encoded * 255)
      .toString(16)
      .padStart(2, "0");
  };
  return `#${linear.map(channel).join("")}`.toUpperCase();
}

export function toLinear(hex: string): [number, number, number] {
  const channel = (start: number) => {
    const v = Number.parseInt(hex.slice(start, start + 2), 16) / 255;
    return Number((v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4).toFixed(6));
  };
  return [channel(1), channel(3), channel(5)];
}
