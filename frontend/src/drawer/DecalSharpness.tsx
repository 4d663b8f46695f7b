import { useSharpness } from "../api/decals";
import { decimals } from "../words/numbers";

interface Props {
  reviewId: string;
  id: string;
  seq: number;
  isDrawn: boolean;
}

/** How many pixels of each shot one pixel of a decal covers, and a warning where it will look soft. */
export function DecalSharpness({ reviewId, id, seq, isDrawn }: Props) {
  const shots = useSharpness(reviewId, id, seq).data ?? [];
  const soft = shots.filter((line) => line.soft);
  if (shots.length === 0) return null;
  const cure = isDrawn
    ? "It is drawn as finely as can be: go less close, or make it smaller."
    : "Take a larger picture, or an SVG.";
  return (
    <p className={`text-[12px] leading-[1.3] ${soft.length ? "text-warn" : "why"}`}>
      One pixel of it covers {shots.map(({ shot, pixels }) => `${decimals(pixels, 2)} of ${shot}`).join(", ")}
      .{soft.length > 0 && ` It will look soft in ${soft.map((line) => line.shot).join(", ")}. ${cure}`}
    </p>
  );
}
