import { useEffect } from "react";
import { createPortal } from "react-dom";
import type { Model } from "../api/client";
import { type Behind, useDesk } from "../state/deskStore";
import * as t from "../words/texts/desk/BehindMenu";

/** Everything that lies under the pointer, front to back, to reach what a clear or front part covers. */
export function BehindMenu({ model, behind }: { model: Model; behind: Behind }) {
  useEffect(() => {
    const close = () => useDesk.setState({ behind: undefined, hovered: undefined });
    const onKey = (event: KeyboardEvent) => event.key === "Escape" && close();
    window.addEventListener("pointerdown", close);
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("pointerdown", close);
      window.removeEventListener("keydown", onKey);
    };
  }, []);
  const names = new Map(model.nodes.map((node) => [node.uid, node.name]));
  // In the page's body: within the mat a fixed place would be the mat's.
  return createPortal(
    <div
      role="menu"
      aria-label={t.whatLiesHereFront}
      className="fixed z-30 max-h-72 min-w-44 overflow-y-auto rounded-md border border-rule-strong bg-sheet py-1 shadow-lg"
      style={{
        left: Math.min(behind.x + 6, innerWidth - 220),
        top: Math.min(behind.y + 6, innerHeight - 300),
      }}
      onPointerDown={(event) => event.stopPropagation()}
    >
      <span className="cap block px-2.5 py-1">{t.frontToBack}</span>
      {behind.uids.map((uid, index) => (
        <button
          key={uid}
          type="button"
          role="menuitem"
          className="flex w-full cursor-pointer gap-2 px-2.5 py-0.5 text-left hover:bg-mark-soft"
          onPointerEnter={() => useDesk.setState({ hovered: uid })}
          onClick={(event) => {
            const desk = useDesk.getState();
            if (event.ctrlKey || event.metaKey) desk.toggle([uid]);
            else desk.choose([uid]);
            useDesk.setState({ behind: undefined, hovered: undefined });
          }}
        >
          <span className="figures w-4 text-ink-3">{index + 1}</span>
          {names.get(uid)}
        </button>
      ))}
    </div>,
    document.body,
  );
}
