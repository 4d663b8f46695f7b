import { ChevronDown, ChevronRight } from "lucide-react";
import type { ReactNode } from "react";
import { useDesk } from "../../state/deskStore";

interface Props {
  title: string;
  /** Short, at the right end of the heading. */
  fact?: ReactNode;
  open?: boolean;
  children: ReactNode;
}

/** A part of the drawer that folds under its heading, and is found as it was left. */
export function Section({ title, fact, open: first = false, children }: Props) {
  const open = useDesk((state) => state.sections[title] ?? first);
  const setOpen = (next: boolean) =>
    useDesk.setState((state) => ({ sections: { ...state.sections, [title]: next } }));
  const Icon = open ? ChevronDown : ChevronRight;
  return (
    <section aria-label={title} className="shrink-0 border-t border-rule pt-2">
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full cursor-pointer items-center gap-1 text-left"
        onClick={() => setOpen(!open)}
      >
        <Icon size={13} className="text-ink-2" />
        <span className="flex-1 font-semibold">{title}</span>
        <span className="why whitespace-nowrap">{fact}</span>
      </button>
      {open && <div className="mt-2 flex flex-col gap-2">{children}</div>}
    </section>
  );
}
