import type { Decal } from "../api/client";
import { clearedPicture } from "../api/decals";
import { toast } from "../api/toast";
import { Amount } from "../ui/controls";

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
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={cleared !== null}
          onChange={(event) =>
            event.target.checked ? make({}) : onChange({ picture: cleared!.source, cleared: null })
          }
        />
        Make its background clear
      </label>
      {cleared && (
        <>
          <Amount
            label="Tolerance"
            value={cleared.tolerance}
            min={0.5}
            max={60}
            step={0.5}
            digits={1}
            onCommit={(tolerance) => make({ tolerance })}
          />
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={cleared.inside}
              onChange={(event) => make({ inside: event.target.checked })}
            />
            Also what is enclosed
          </label>
        </>
      )}
    </>
  );
}
