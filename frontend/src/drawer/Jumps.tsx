import { Children, isValidElement } from "react";
import * as t from "../words/texts/drawer/Jumps";

interface PartProps {
  title: string;
  children: React.ReactNode;
}

/** A part of a long drawer that one can jump to. */
export function DrawerPart({ title, children }: PartProps) {
  return (
    <div data-drawer-part={title} className="flex scroll-mt-9 flex-col gap-[11px]">
      {children}
    </div>
  );
}

/** Parts of a drawer under a list of their titles that stays in sight. */
export function Jumps({ children }: { children: React.ReactNode }) {
  const titles = Children.toArray(children).flatMap((child) =>
    isValidElement<PartProps>(child) && child.type === DrawerPart ? [child.props.title] : [],
  );
  return (
    <>
      <nav
        aria-label={t.sectionsOfTheDrawer}
        className="sticky -top-[13px] z-10 -mx-3.5 flex shrink-0 gap-4 border-b border-rule bg-sheet px-3.5 py-1.5"
      >
        {titles.map((title) => (
          <button
            key={title}
            type="button"
            className="min-h-6 cursor-pointer text-[12px] whitespace-nowrap text-mark underline-offset-2 hover:underline"
            onClick={({ currentTarget }) => jumpTo(currentTarget, title)}
          >
            {title}
          </button>
        ))}
      </nav>
      {children}
    </>
  );
}

/** Scrolls a part of the same drawer to the top, and takes the keyboard there. */
function jumpTo(from: HTMLElement, title: string) {
  const part = from.closest("aside")?.querySelector<HTMLElement>(`[data-drawer-part="${title}"]`);
  part?.scrollIntoView({ block: "start" });
  const first = part?.querySelector<HTMLElement>("button, input, select, textarea, [tabindex='0']");
  first?.focus({ preventScroll: true });
}
