import { type ComponentType, lazy } from "react";

const known: (() => Promise<unknown>)[] = [];

/** A component whose code is fetched when it is shown for the first time; nothing is shown until then. */
// biome-ignore lint/suspicious/noExplicitAny: whatever properties the component takes
export function later<K extends string, C extends ComponentType<any>>(
  load: () => Promise<Record<K, C>>,
  name: K,
) {
  known.push(load);
  return lazy(() => load().then((found) => ({ default: found[name] })));
}

/** Fetches the code of all such components while nothing else is to be done, so that none keeps a hand waiting. */
export function fetchTheRest() {
  requestIdleCallback(() => {
    for (const load of known) load().catch(() => undefined);
  });
}
