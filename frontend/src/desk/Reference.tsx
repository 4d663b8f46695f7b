import { Pin, X } from "lucide-react";
import { useState } from "react";
import { type Reference, useDesk } from "../state/deskStore";
import { IconButton } from "../ui/controls";
import { FileButton } from "../ui/FileButton";
import { WipeLine } from "../ui/WipeLine";
import * as t from "../words/texts/desk/Reference";

/** Pins a picture from a file to the desk, or says which is pinned and how it is held against the desk's. */
export function ReferenceBar() {
  const reference = useDesk((state) => state.reference);
  const set = (change: Partial<Reference>) =>
    useDesk.setState((now) => ({ reference: now.reference && { ...now.reference, ...change } }));
  if (!reference)
    return (
      <FileButton
        className="self-center"
        label={t.referencePicture}
        accept=".png,.jpg,.jpeg,.webp"
        onFile={(file) =>
          useDesk.setState({
            reference: { name: file.name, url: URL.createObjectURL(file), way: "beside" },
            beside: undefined,
            besideLighting: undefined,
          })
        }
      >
        {t.reference}
      </FileButton>
    );
  const close = () => {
    if (reference.url.startsWith("blob:")) URL.revokeObjectURL(reference.url);
    useDesk.setState({ reference: undefined });
  };
  return (
    <span className="flex h-[27px] items-center gap-1 rounded-md border border-rule-strong bg-white pr-0.5 pl-2">
      <Pin size={12} className="text-ink-2" />
      <span className="max-w-28 truncate" title={reference.name}>
        {reference.name}
      </span>
      <select
        aria-label={t.howTheReferenceIs}
        className="cursor-pointer bg-transparent"
        value={reference.way}
        onChange={(event) => set({ way: event.target.value as Reference["way"] })}
      >
        <option value="beside">{t.beside}</option>
        <option value="wipe">{t.wipe}</option>
      </select>
      <IconButton label={t.unpinTheReference} className="!h-6 !w-6" onClick={close}>
        <X size={13} />
      </IconButton>
    </span>
  );
}

/** The reference in a place of its own. */
export function ReferencePicture({ reference }: { reference: Reference }) {
  return (
    <img
      alt={t.reference2(reference.name)}
      draggable={false}
      className="absolute inset-0 h-full w-full bg-sheet object-contain"
      src={reference.url}
    />
  );
}

/** The reference over the picture of the desk, from the left up to a line that is dragged. */
export function ReferenceWipe({ reference }: { reference: Reference }) {
  const [share, setShare] = useState(50);
  return (
    <div className="pointer-events-none absolute inset-0 z-10">
      <div className="absolute inset-0" style={{ clipPath: `inset(0 ${100 - share}% 0 0)` }}>
        <ReferencePicture reference={reference} />
      </div>
      {/* A strip along the lower edge, so that the rest of the picture is turned and picked as always. */}
      <WipeLine
        share={share}
        onShare={setShare}
        className="pointer-events-auto inset-x-0 bottom-0 h-6 accent-ink"
      />
    </div>
  );
}
