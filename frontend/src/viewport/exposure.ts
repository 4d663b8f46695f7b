/** The exposure at which the lightings are made; the tracer's numbers (see core/light, core/camera). */
export const REFERENCE_EV = 9.3;

/** Factor from cd/m² to picture values: 1 / (1.2 · 2^EV). */
export function exposureScale(ev: number): number {
  return 1 / (1.2 * 2 ** ev);
}
