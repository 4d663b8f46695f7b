import type { Decal, Model } from "../api/client";
import { decalAlongFace, decalFace, decalFarSide } from "../api/decals";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { Button, Choice } from "../ui/controls";
import { Hint } from "../ui/Hint";
import * as t from "../words/texts/drawer/DecalReach";

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
        label={t.laid}
        title={t.howTheDecalIs}
        value={decal.sheet ? "face" : decal.wrap ? "round" : "straight"}
        choices={[
          ["straight", "straight"],
          ...(decal.wrap ? [["round", t.roundTheAxis] as const] : []),
          ["face", t.alongItsFace],
        ]}
        onChange={lie}
      />
      {!decal.sheet && (
        <Choice
          label={t.keptTo}
          title={t.facesThatTheDecal}
          value={kept === 0 ? "part" : "now"}
          choices={[
            ["part", t.itsPart],
            ...(kept > 0 ? [["now", kept === 1 ? t.oneFace : t.faces(kept)] as const] : []),
            ["face", kept > 0 ? t.theFaceItLies : t.itsFace],
            ...(picked.length > 0
              ? [
                  [
                    "picked",
                    picked.length === 1 ? t.theSelectedFace : t.selectedFaces(picked.length),
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
            {t.runsAcross(countParts(decal.also.length + 1))}{" "}
            <Button look="text" onClick={() => set({ also: [] })}>
              {t.itsOwnOnly}
            </Button>
          </span>
        )}
        {!decal.sheet && fresh.length > 0 && others.length <= MOST_BESIDE && (
          <Hint text={t.onePictureOverAll}>
            <Button
              look="text"
              onClick={() => set({ also: [...new Set([...decal.also, ...others])].slice(0, MOST_BESIDE) })}
            >
              {t.runAcross(countParts(others.length + 1))}
            </Button>
          </Hint>
        )}
        <Hint text={t.ontoTheOppositeSide}>
          <Button look="text" onClick={() => ask(() => decalFarSide(reviewId, id))}>
            {t.toTheFarSide}
          </Button>
        </Hint>
      </div>
    </>
  );
}
