import { useDesk } from "../state/deskStore";

/** Unfolds a part of the drawer. A summary and no button: those of a locked shot cannot be pressed, and it can be read. */
export function Unfold({ title }: { title: string }) {
  const unfold = () => useDesk.setState(({ sections }) => ({ sections: { ...sections, [title]: true } }));
  return (
    <details className="self-start" onToggle={unfold}>
      <summary className="cursor-pointer list-none text-mark underline-offset-2 hover:underline">
        {title}…
      </summary>
    </details>
  );
}
