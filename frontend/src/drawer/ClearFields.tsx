import type { Decal } from "../api/client";
import { clearedPicture } from "../api/decals";
import { toast } from "../api/toast";
import { Amount } from "../ui/Amount";
import { Check } from "../ui/controls";
import * as t from "../words/texts/drawer/ClearFields";

interface Props {
  decal: Decal;
  onChange: (change: Pick<Decal, "picture" | "cleared">) => void;
}

/** Makes the plain background of a decal's picture clear; the part shows at once what is left. */
export function ClearFields({ decal, onChange }: Props) {
  const { cleared } = decal;
  const make = async (change: Partial<NonNullable<Decal["cleared"]>>) => {
    const next = { source: decal.picture, tolerance: 10, inside: false, ...cleared, ...change };
    try {
      onChange({ picture: await clearedPicture(next), cleared: next });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <Check
        label={t.makeItsBackgroundClear}
        checked={cleared !== null}
        onChange={(checked) => (checked ? make({}) : onChange({ picture: cleared!.source, cleared: null }))}
      />
      {cleared && (
        <>
          <Amount
            label={t.tolerance}
            value={cleared.tolerance}
            min={0.5}
            max={60}
            step={0.5}
            digits={1}
            onCommit={(tolerance) => make({ tolerance })}
          />
          <Check
            label={t.alsoWhatIsEnclosed}
            checked={cleared.inside}
            onChange={(checked) => make({ inside: checked })}
          />
        </>
      )}
    </>
  );
}
