import { memo } from "react";
import { type AssemblyActions, useFiltered } from "../api/assembly";
import type { Appearance, Edit, Model, OpenPBR, Standing } from "../api/client";
import { useDesk } from "../state/deskStore";
import { type Place, placesOf, wearersOf } from "../state/giving";
import type { PartActions } from "../state/partActions";
import { countParts, listNames } from "../state/rows";
import { Button } from "../ui/controls";
import { extentOf } from "../viewport/moving";
import { sizeWords } from "../words/length";
import * as t from "../words/texts/drawer/PartsDrawer";
import { AllDecals, Decals } from "./Decals";
import { Glow } from "./Glow";
import { DrawerPart, Jumps } from "./Jumps";
import { KeepSample } from "./KeepSample";
import { Layers } from "./Layers";
import { LayingFields } from "./LayingFields";
import { FaceSteps } from "./model/FaceSteps";
import { Fineness } from "./model/Fineness";
import { Mending } from "./model/Mending";
import { ModelDrawer } from "./model/ModelDrawer";
import { PartPlace } from "./model/PartPlace";
import { ParameterRows } from "./ParameterRows";
import { SampleShelf } from "./SampleShelf";
import { Textures } from "./Textures";

interface Props {
  model: Model;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
}

interface DrawerProps extends Props {
  reviewId: string;
  actions: PartActions;
  assembly: AssemblyActions;
}

/** Appearance of what is chosen, and the shelf to give another. */
export const PartsDrawer = memo(function PartsDrawer({
  reviewId,
  shotId,
  model,
  standing,
  actions,
  assembly,
  edit,
}: DrawerProps) {
  const chosen = useDesk((state) => state.chosen);
  const faces = useDesk((state) => state.faces);
  const filter = useDesk((state) => (state.sheet === "parts" ? state.filter.trim() : ""));
  const found = useFiltered(reviewId, chosen.size === 0 ? filter : "", standing.seq).data;
  // With nothing selected, what the filter finds is meant.
  const byFilter = chosen.size === 0 && filter !== "" && found !== undefined;
  const uids = (byFilter ? found.uids : [...chosen]).filter((uid) => standing.worn[uid]);
  const places = placesOf({ model, standing, uids, faces });
  const counts = new Map<string, number>();
  for (const { appearance } of places) counts.set(appearance, (counts.get(appearance) ?? 0) + 1);
  const [most] = [...counts.entries()].sort((a, b) => b[1] - a[1]);
  const appearance = most && standing.appearances[most[0]];
  if (uids.length === 0)
    return (
      <>
        <header>
          <span className="cap">{t.nothingSelected}</span>
          <p className="mt-1.5 text-ink-2">{t.selectPartsInThe}</p>
        </header>
        <AllDecals {...{ model, standing, edit }} />
        <ModelDrawer {...{ reviewId, model, standing, shotId, actions, assembly, edit }} />
      </>
    );
  return (
    <>
      <header>
        <span className="cap">
          {faces.length > 0 ? t.on(faces.length, faces.length === 1 ? t.face : t.faces) : ""}
          {countParts(uids.length)} {byFilter ? t.found : t.selected}
        </span>
        {byFilter ? <p className="why mt-1">{t.nothingIsSelectedA}</p> : <ChosenSize model={model} />}
        {appearance && (
          <div className="mt-1.5 flex items-baseline justify-between gap-2">
            <b className="truncate text-[15px] font-semibold">{titleOf(appearance)}</b>
            <span className="why whitespace-nowrap">
              {counts.size > 1 ? t.ofThemDifferent(most[1], counts.size) : whyOf(places)}
            </span>
          </div>
        )}
      </header>
      <Jumps>
        <DrawerPart title={t.samples}>
          <SampleShelf
            {...{ reviewId, model, standing, uids, edit }}
            filter={byFilter ? filter : undefined}
          />
          <Layers {...{ model, standing, uids, edit }} />
          <FaceSteps {...{ model, standing, assembly }} />
        </DrawerPart>
        {appearance && (
          <DrawerPart title={t.parameters}>
            <Parameters
              {...{ model, standing, shotId, edit, appearance, uids, places }}
              onFaces={faces.length > 0}
            />
          </DrawerPart>
        )}
        {!byFilter && (
          <DrawerPart title={t.decals}>
            <Decals {...{ reviewId, model, standing, uids, edit }} />
          </DrawerPart>
        )}
        {!byFilter && (
          <DrawerPart title={t.place}>
            <PartPlace {...{ model, standing, edit }} />
            <Fineness {...{ model, uids, shotId, assembly }} />
            <Mending {...{ model, uids, assembly }} />
          </DrawerPart>
        )}
      </Jumps>
    </>
  );
});

/** Extent of all that is chosen together, along the axes of the review. */
function ChosenSize({ model }: { model: Model }) {
  const chosen = useDesk((state) => state.chosen);
  const size = extentOf(model, chosen);
  return size && <p className="figures mt-1 text-ink-2">{sizeWords(size)}</p>;
}

function titleOf(appearance: Appearance): string {
  if (appearance.family === "from CAD") return t.cadColour;
  if (appearance.family === "neutral") return t.noAppearanceYet;
  return appearance.name;
}

const WHY: Partial<Record<string, string>> = {
  face: t.givenToTheFace,
  part: t.givenToThePart,
  "same part": t.givenToAllSame,
  rule: t.byARule,
  "sub-assembly": t.onItsSubAssembly,
  model: t.onTheWholeModel,
};

function whyOf(places: Place[]): string {
  const why = places[0]!.why;
  return WHY[why] ?? why;
}

type Params = Required<OpenPBR>;

function Parameters({
  model,
  standing,
  shotId,
  edit,
  appearance,
  uids,
  places,
  onFaces,
}: Props & { appearance: Appearance; uids: string[]; places: Place[]; onFaces: boolean }) {
  const p = appearance.params as Params;
  const own = standing.scene.appearances?.[appearance.id] !== undefined;
  const users = own ? wearersOf(standing, appearance.id) : uids;
  const look = standing.scene.look;
  const assign = (to: Place[], id: string | null, define: Record<string, Appearance> = {}) =>
    edit({ kind: "assign", look, assignments: Object.fromEntries(to.map(({ key }) => [key, id])), define });
  const changed = (change: Partial<Params>): Appearance => ({ ...appearance, params: { ...p, ...change } });
  const preview = (change: Partial<Params>) =>
    useDesk.setState({ previews: { [appearance.id]: changed(change) } });
  const commit = (change: Partial<Params>) => keep(changed(change));
  const keep = (next: Appearance) => {
    useDesk.setState({ previews: {} });
    if (own) edit({ kind: "change_appearance", appearance: next });
    else {
      // What CAD gave cannot change; a changed copy of it becomes an appearance of its own.
      const id = `own-${crypto.randomUUID().slice(0, 8)}`;
      const made: Appearance = { ...next, id, name: t.ownFromCadColour, family: "plastic" };
      assign(places, id, { [id]: made });
    }
  };
  const mine = places.filter((place) => place.appearance === appearance.id);
  const others = users.filter((uid) => !mine.some((place) => place.uid === uid)).length;
  const splitOff = () => {
    const id = `own-${crypto.randomUUID().slice(0, 8)}`;
    const made: Appearance = { ...appearance, id, name: t.own(appearance.name) };
    assign(mine, id, { [id]: made });
  };
  const these = (count: number) =>
    onFaces
      ? count === 1
        ? t.thisFace
        : t.theseFaces(count)
      : count === 1
        ? t.thisPart
        : t.theseParts(count);
  const given = places.filter(({ why }) => why === (onFaces ? t.face : "part"));
  const colored = onFaces ? [] : uids.filter((uid) => standing.worn[uid]?.why === "from CAD");
  const { imported = {}, stripped = [] } = standing.scene;
  const bare = onFaces ? [] : uids.filter((uid) => stripped.includes(uid));
  const strip = (next: string[]) => edit({ kind: "set_imported", imported, stripped: next, define: {} });
  return (
    <div className="flex flex-col gap-[9px]">
      <ParameterRows key={appearance.id} {...{ p, preview, commit }} />
      <Glow p={p} burns={standing.burns[appearance.id]?.[shotId]} commit={commit} />
      <KeepSample key={`keep ${appearance.id}`} appearance={appearance} />
      <Textures appearance={appearance} commit={(textures) => keep({ ...appearance, textures })} />
      {appearance.textures?.some((texture) => texture.mapping === "surface") && (
        <LayingFields {...{ model, standing, uids, edit }} />
      )}
      <p className="rounded-sm border border-rule bg-white px-2.5 py-[7px] text-[12px]">
        {t.aChangeHereChanges} <b className="font-semibold">{countParts(users.length)}</b>:{" "}
        {listNames(model, users)}.
      </p>
      {own && mine.length > 0 && others > 0 && (
        <Button look="text" className="!h-auto self-start whitespace-normal text-left" onClick={splitOff}>
          {t.makeASeparateCopy(these(mine.length))}
        </Button>
      )}
      {colored.length > 0 && (
        <Button look="text" className="self-start" onClick={() => strip([...stripped, ...colored])}>
          {t.ignoreCadColourOn(colored.length === 1 ? t.thisPart : t.theseParts(colored.length))}
        </Button>
      )}
      {bare.length > 0 && (
        <Button
          look="text"
          className="self-start"
          onClick={() => strip(stripped.filter((uid) => !bare.includes(uid)))}
        >
          {t.useCadColourAgain}
        </Button>
      )}
      {given.length > 0 && (
        <Button look="text" className="self-start" onClick={() => assign(given, null)}>
          {t.removeOverrideOn(these(given.length))}
        </Button>
      )}
    </div>
  );
}
