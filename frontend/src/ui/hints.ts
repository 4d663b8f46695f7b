import type { ReactNode } from "react";

/** What resting on an element tells. */
export interface HintWords {
  text?: ReactNode;
  /** The key that does the same. */
  keys?: string;
  side?: "top" | "left";
  /** A help topic, with its pictures in place of the text. */
  topic?: string;
}

const known = new WeakMap<Element, HintWords>();
let heard: ((element: Element) => void) | undefined;

/** Says what an element tells; nothing any more without words. */
export function giveHint(element: Element, words: HintWords | undefined) {
  if (words) known.set(element, words);
  else known.delete(element);
  heard?.(element);
}

/** What an element tells now. */
export const hintOf = (element: Element) => known.get(element);

/** The innermost element around a target that tells something. */
export function hintedAround(target: EventTarget | null): Element | undefined {
  let element = target instanceof Element ? target : null;
  while (element && !known.has(element)) element = element.parentElement;
  return element ?? undefined;
}

/** Hears of each element whose words have changed, until it is called off. */
export function onHintChange(listener: (element: Element) => void): () => void {
  heard = listener;
  return () => {
    heard = undefined;
  };
}
