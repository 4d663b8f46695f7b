import { type RefObject, useEffect, useState } from "react";

/** How far outside its list something still counts as near: a row or two, so that scrolling finds it ready. */
const MARGIN = "300px";
type Told = (near: boolean) => void;
interface Watch {
  observer: IntersectionObserver;
  told: Map<Element, Told>;
}
const watches = new WeakMap<Element, Watch>();

/** Whether an element is in sight of the list that scrolls it, or nearly: what costs something waits for that. */
export function useNear(element: RefObject<Element | null>, list: RefObject<Element | null>): boolean {
  const [near, setNear] = useState(false);
  useEffect(() => {
    if (!element.current || !list.current) return;
    const watch = watchOf(list.current);
    const one = element.current;
    watch.told.set(one, setNear);
    watch.observer.observe(one);
    return () => {
      watch.observer.unobserve(one);
      watch.told.delete(one);
    };
  }, [element, list]);
  return near;
}

function watchOf(list: Element): Watch {
  const known = watches.get(list);
  if (known) return known;
  const told = new Map<Element, Told>();
  const observer = new IntersectionObserver(
    (seen) => {
      for (const one of seen) told.get(one.target)?.(one.isIntersecting);
    },
    { root: list, rootMargin: MARGIN },
  );
  const watch = { observer, told };
  watches.set(list, watch);
  return watch;
}
