import type { Decal, Model } from "../api/client";
import { decalAlongFace, decalFace, decalFarSide } from "../api/decals";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { Button, Choice, Hint } from "../ui/controls";

interface Props {
  reviewId: string;
  id: string;
  decal: Decal;
  model: Model;
  set: (change: Partial<Decal>) => void;
}

/** As many other parts as a decal may run across. */
const MOST_BESIDE = 50;

/** Where a decal may lie: on all of its part or on some faces, on other parts too, or behind a clear wall. */
export function DecalReach({ reviewId, id, decal, model, set }: Props) {
  const chosen = useDesk((state) => state.chosen);
  const faces = useDesk((state) => state.faces);
  const definition = model.nodes.find((node) => node.uid === decal.part)?.definition;
  const known = (definition && model.definitions[definition]?.faces) || [];
  const picked = faces.filter(({ uid }) => uid === decal.part).map(({ face }) => known[face]!);
  const others = [...chosen].filter((uid) => uid !== decal.part);
  const fresh = others.filter((uid) => !decal.also.includes(uid));
  const ask = async (wish: () => Promise<Partial<Decal>>) => {
    try {
      set(await wish());
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const keepTo = (where: string) => {
    if (where === "part") set({ faces: [] });
    else if (where === "picked") set({ faces: [...new Set(picked)] });
    else if (where === "face") ask(async () => ({ faces: [await decalFace(reviewId, id)] }));
  };
  const kept = decal.faces.length;
  const lie = (how: string) => {
    if (how === "face") ask(() => decalAlongFace(reviewId, id));
    else set({ sheet: null, wrap: null });
  };
  return (
    <>
      <Choice
        label="Laid"
        title="How the decal is laid on its part"
        value={decal.sheet ? "face" : decal.wrap ? "round" : "straight"}
        choices={[
          ["straight", "straight"],
          ...(decal.wrap ? [["round", "round the axis"] as const] : []),
          ["face", "along its face"],
        ]}
        onChange={lie}
      />
      {!decal.sheet && (
        <Choice
          label="Kept to"
          title="Faces that the decal is kept to"
          value={kept === 0 ? "part" : "now"}
          choices={[
            ["part", "its part"],
            ...(kept > 0 ? [["now", kept === 1 ? "one face" : `${kept} faces`] as const] : []),
            ["face", kept > 0 ? "the face it lies on" : "its face"],
            ...(picked.length > 0
              ? [
                  [
                    "picked",
                    picked.length === 1 ? "the selected face" : `${picked.length} selected faces`,
                  ] as const,
                ]
              : []),
          ]}
          onChange={keepTo}
        />
      )}
      <div className="flex flex-wrap items-center justify-between gap-1">
        {!decal.sheet && decal.also.length > 0 && (
          <span className="why">
            runs across {countParts(decal.also.length + 1)}{" "}
            <Button look="text" onClick={() => set({ also: [] })}>
              Its own only
            </Button>
          </span>
        )}
        {!decal.sheet && fresh.length > 0 && others.length <= MOST_BESIDE && (
          <Hint text="One picture over all of them, where it reaches them">
            <Button
              look="text"
              onClick={() => set({ also: [...new Set([...decal.also, ...others])].slice(0, MOST_BESIDE) })}
            >
              Run across {countParts(others.length + 1)}
            </Button>
          </Hint>
        )}
        <Hint text="Onto the opposite side of the wall, as print behind glass is">
          <Button look="text" onClick={() => ask(() => decalFarSide(reviewId, id))}>
            To the far side
          </Button>
        </Hint>
      </div>
    </>
  );
}
