import { Tooltip } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import * as t from "../words/texts/ui/HintLayer";
import { helpOn } from "./help/help";
import { type HintWords, hintedAround, hintOf, onHintChange } from "./hints";

/** Rest before a hint is shown, ms; none while one was shown just before. */
const REST = 500;
const JUST_BEFORE = 300;
/** Time to get from an element onto its hint, ms. */
const CROSSING = 150;

interface Shown {
  element: Element;
  words: HintWords;
}

/** The one hint that is shown, for whichever element the pointer rests on or the keyboard has come to. */
export function HintLayer() {
  const { shown, hide } = useShown();
  if (!shown) return null;
  const { left, top, width, height } = shown.element.getBoundingClientRect();
  const { text, keys, side, topic } = shown.words;
  const help = helpOn(topic);
  return (
    <Tooltip.Provider>
      <Tooltip.Root open onOpenChange={(open) => !open && hide()}>
        <Tooltip.Trigger asChild>
          <span
            ref={(anchor) => describe(shown.element, anchor)}
            className="pointer-events-none fixed"
            style={{ left, top, width, height }}
          />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            side={help ? "left" : side}
            sideOffset={help ? 14 : 5}
            collisionPadding={8}
            data-hint-layer
            className={
              help
                ? "z-50 flex w-[290px] flex-col gap-2 rounded-md border border-rule-strong bg-sheet p-2.5 text-[12px] shadow-xl"
                : "z-50 max-w-64 rounded-sm bg-ink px-2 py-1 text-[12px] text-white shadow-lg"
            }
          >
            {help ? (
              <>
                <span>{help.words}</span>
                <span className="grid grid-cols-2 gap-2">
                  {(["low", "high"] as const).map((end) => (
                    <figure key={end} className="m-0">
                      <img src={help[end]} width={132} height={99} alt="" className="block w-full" />
                      <figcaption className="why">{end === "low" ? t.little : t.much}</figcaption>
                    </figure>
                  ))}
                </span>
              </>
            ) : (
              <>
                {text}
                {keys && <span className="figures ml-2 text-white/70">{keys}</span>}
              </>
            )}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

/** Lets those who cannot see the hint hear it: the element is described by what its stand-in is described by. */
function describe(element: Element, anchor: HTMLElement | null) {
  if (!anchor) return;
  const words = anchor.getAttribute("aria-describedby");
  if (!words || element.hasAttribute("aria-describedby")) return;
  element.setAttribute("aria-describedby", words);
  return () => element.removeAttribute("aria-describedby");
}

/** Follows pointer and keyboard over the whole page. */
function useShown() {
  const [shown, setShown] = useState<Shown>();
  const hide = useRef(() => undefined as undefined);
  useEffect(() => {
    let waiting = 0;
    let hidden = Number.NEGATIVE_INFINITY;
    let now: Element | undefined;
    /** What was pressed says nothing more until the pointer has been elsewhere. */
    let pressed: Element | undefined;
    const show = (element?: Element) => {
      clearTimeout(waiting);
      const words = element && hintOf(element);
      if (now && !words) hidden = performance.now();
      now = words && element;
      setShown(words && { element, words });
    };
    const soon = (element: Element | undefined, wait: number) => {
      clearTimeout(waiting);
      waiting = window.setTimeout(() => show(element), wait);
    };
    const over = (target: Element) => {
      const element = hintedAround(target);
      if (element !== pressed) pressed = undefined;
      if (element === now || target.closest("[data-hint-layer]")) clearTimeout(waiting);
      else if (!element) soon(undefined, CROSSING);
      else if (!pressed) soon(element, now || performance.now() - hidden < JUST_BEFORE ? 0 : REST);
    };
    const off = new AbortController();
    const on = <K extends keyof DocumentEventMap>(name: K, act: (event: DocumentEventMap[K]) => void) =>
      document.addEventListener(name, act, { capture: true, signal: off.signal });
    on("pointerover", (event) => {
      if (event.pointerType !== "touch" && !event.buttons) over(event.target as Element);
    });
    on("pointerdown", (event) => {
      show();
      pressed = hintedAround(event.target);
    });
    on("focusin", ({ target }) => {
      if ((target as Element).matches(":focus-visible")) show(hintedAround(target));
    });
    on("focusout", () => show());
    on("scroll", ({ target }) => now && (target as Node).contains(now) && show());
    document.documentElement.addEventListener("pointerleave", () => show(), { signal: off.signal });
    const deaf = onHintChange((element) => element === now && show(element));
    hide.current = () => show() as undefined;
    // The pointer may have come to rest before this was there.
    const beneath = [...document.querySelectorAll(":hover")].at(-1);
    if (beneath) over(beneath);
    return () => {
      clearTimeout(waiting);
      off.abort();
      deaf();
    };
  }, []);
  return { shown, hide: () => hide.current() };
}
