import { useSharpness } from "../api/decals";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/drawer/DecalSharpness";

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
  const cure = isDrawn ? t.itIsDrawnAs : t.takeALargerPicture;
  return (
    <p className={`text-[12px] leading-[1.3] ${soft.length ? "text-warn" : "why"}`}>
      {t.onePixelOfIt(shots.map(({ shot, pixels }) => t.ofWord(decimals(pixels, 2), shot)).join(", "))}
      {soft.length > 0 && t.itWillLookSoft(soft.map((line) => line.shot).join(", "), cure)}
    </p>
  );
}
