import { Slot } from "radix-ui";
import { type ReactNode, useLayoutEffect, useRef } from "react";
import { giveHint, type HintWords } from "./hints";

/** Names what a control does and its key to whoever rests on it, see `HintLayer`. */
export function Hint({ children, ...words }: HintWords & { children: ReactNode }) {
  const element = useRef<HTMLElement>(null);
  useLayoutEffect(() => {
    if (element.current) giveHint(element.current, words);
  });
  useLayoutEffect(() => {
    const told = element.current;
    return () => {
      if (told) giveHint(told, undefined);
    };
  }, []);
  return <Slot.Root ref={element}>{children}</Slot.Root>;
}
