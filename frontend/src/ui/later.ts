import { type ComponentType, lazy } from "react";

/** A component whose code is fetched when it is shown for the first time; nothing is shown until then. */
// biome-ignore lint/suspicious/noExplicitAny: whatever properties the component takes
export function later<K extends string, C extends ComponentType<any>>(
  load: () => Promise<Record<K, C>>,
  name: K,
) {
  return lazy(() => load().then((found) => ({ default: found[name] })));
}
