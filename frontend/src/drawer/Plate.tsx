import type { Sample } from "../api/client";
import { Swatch } from "../ui/Swatch";
import * as t from "../words/texts/drawer/Plate";

/** Pixels along a side in which finish plates are handed out. */
type Side = 96 | 192 | 288;

/** A sample's finish plate, or its swatch and name as long as that is not traced. */
export function Plate({ sample, side }: { sample: Sample; side: Side }) {
  if (!sample.plate)
    return (
      <span className="why absolute inset-0 grid place-items-center content-center p-1 text-center leading-tight">
        <Swatch appearance={sample.appearance} />
        <span className="line-clamp-2">{sample.appearance.name}</span>
      </span>
    );
  return (
    <img
      src={`/api/blobs/${sample.plate}/plate?side=${side}`}
      alt=""
      className="absolute inset-0 h-full w-full object-cover"
      draggable={false}
    />
  );
}

/** What a sample is called and on how many parts it is, under a picture that is large enough to judge it. */
export function PlateNote({ sample, used }: { sample: Sample; used?: string }) {
  return (
    <span className="flex w-36 flex-col gap-1 py-0.5">
      {sample.plate && (
        <span className="relative block h-36 w-36 overflow-hidden rounded-sm bg-sunk">
          <Plate sample={sample} side={288} />
        </span>
      )}
      <span>
        {sample.appearance.name}
        {used && t.on(used)}
      </span>
    </span>
  );
}
