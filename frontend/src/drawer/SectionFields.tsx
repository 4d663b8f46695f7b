import type { Section, Shot, Standing } from "../api/client";
import { useAct } from "../api/queries";
import { sectionThrough, showSection, useSection } from "../api/sections";
import { useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { flipped, towards, WAYS, type Way, wayOf } from "../state/section";
import { Amount } from "../ui/Amount";
import { Button, Check, Choice, ColorField, LENGTH } from "../ui/controls";
import { Hint } from "../ui/Hint";
import * as t from "../words/texts/drawer/SectionFields";

const RED = "#B4442F";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  shot: Required<Shot>;
  commit: (change: Partial<Shot>) => void;
}

/** A plane that cuts the product open in this shot. */
export function SectionFields({ reviewId, standing, shotId, shot, commit }: Props) {
  const section = shot.section;
  const shown = useSection(reviewId, shotId, standing.seq, section);
  const set = (change: Partial<Section>) => {
    useDesk.setState({ sectionPreview: undefined });
    commit({ section: { ...section!, ...change } });
  };
  /** A plane across a direction, through the middle of what the shot shows. */
  const across = async (normal: Section["normal"]) => {
    const wish = { color: null, whole: [], ...section, normal, offset: 0 };
    const { reach } = await showSection(reviewId, shotId, wish);
    commit({ section: { ...wish, offset: Number(((reach[0] + reach[1]) / 2).toFixed(3)) } });
  };
  const faces = useDesk((state) => state.faces);
  const face = faces.length === 1 ? faces[0] : undefined;
  const act = useAct(["section"]);
  const throughFace = face && !shot.locked && (
    <Hint text={t.alongAFlatFace}>
      <Button
        onClick={() =>
          act(async () => commit({ section: await sectionThrough(reviewId, shotId, face) })).catch(
            () => undefined,
          )
        }
      >
        {t.sectionThroughTheSelected}
      </Button>
    </Hint>
  );
  if (!section)
    return (
      <div className="flex flex-wrap items-center gap-2">
        <Button look="text" onClick={() => across(towards(shot.camera)).catch(() => undefined)}>
          {t.section}
        </Button>
        {throughFace}
      </div>
    );
  const way = wayOf(section);
  // Along an axis the plane's coordinate is shown, whichever side is taken away.
  const sign = way !== "own" && section.normal.some((value) => value < 0) ? -1 : 1;
  const reach = (shown?.reach ?? [section.offset - 1, section.offset + 1]).map((mm) => mm * sign);
  const [least, most] = [Math.min(...reach), Math.max(...reach)];
  return (
    <section
      aria-label={t.section2}
      className="flex flex-col gap-2 rounded-sm border border-rule bg-white p-2.5"
    >
      <Choice
        label={t.section2}
        title={t.directionOfTheSection}
        value={way}
        disabled={shot.locked}
        choices={[...CHOICES, ...(way === "own" ? ([["own", t.aDirectionOfIts]] as const) : [])]}
        onChange={(name) => {
          if (name !== "own") across([...WAYS[name as Exclude<Way, "own">]]).catch(() => undefined);
        }}
      />
      <Amount
        label={t.cutAt}
        value={section.offset * sign}
        min={least}
        max={most}
        step={(most - least) / 400}
        digits={1}
        unit={LENGTH}
        disabled={shot.locked}
        onPreview={(mm) => useDesk.setState({ sectionPreview: { ...section, offset: mm * sign } })}
        onCommit={(mm) => set({ offset: mm * sign })}
      />
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => set(flipped(section))}>{t.otherSide}</Button>
        <Button onClick={() => commit({ section: null })}>{t.noSection}</Button>
        {throughFace}
      </div>
      <Check
        label={t.cutFacesInOne}
        checked={section.color !== null}
        onChange={(one) => set({ color: one ? RED : null })}
      />
      {section.color !== null && (
        <ColorField
          label={t.cutFaces}
          value={section.color}
          disabled={shot.locked}
          onCommit={(color) => set({ color })}
        />
      )}
      <LeftWhole {...{ standing, section, set }} fasteners={shown?.fasteners ?? []} />
    </section>
  );
}

/** Parts that the section does not cut. */
function LeftWhole({
  standing,
  section,
  set,
  fasteners,
}: {
  standing: Standing;
  section: Section;
  set: (change: Partial<Section>) => void;
  fasteners: string[];
}) {
  const chosen = useDesk((state) => state.chosen);
  const { whole } = section;
  const add = (uids: string[]) => set({ whole: [...new Set([...whole, ...uids])] });
  const more = [...chosen].filter((uid) => standing.worn[uid] && !whole.includes(uid));
  const bought = fasteners.filter((uid) => !whole.includes(uid));
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="flex-1">
        {whole.length === 0 ? t.cutsAllParts : t.leavesWhole(countParts(whole.length))}
      </span>
      {bought.length > 0 && (
        <Hint text={t.screwsNutsWashersPins}>
          <Button onClick={() => add(bought)}>{t.leaveFastenersWhole}</Button>
        </Hint>
      )}
      {more.length > 0 && <Button onClick={() => add(more)}>{t.leaveWhole(countParts(more.length))}</Button>}
      {whole.length > 0 && <Button onClick={() => set({ whole: [] })}>{t.cutAll}</Button>}
    </div>
  );
}

const CHOICES = [
  ["x", t.acrossXSideTo],
  ["y", t.acrossYFrontTo],
  ["z", t.acrossZLevel],
] as const;
