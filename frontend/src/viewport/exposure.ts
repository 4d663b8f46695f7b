import { WHITE_AT_EV_0 } from "../api/generated/facts";

/** Factor from cd/m² to picture values. */
export function exposureScale(ev: number): number {
  return 1 / (WHITE_AT_EV_0 * 2 ** ev);
}
