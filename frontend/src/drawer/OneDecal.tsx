import { useEffect, useRef } from "react";
import type { Decal, Drawing, Edit, Model, Standing } from "../api/client";
import { drawn } from "../api/decals";
import { DRAWINGS, INKS } from "../api/generated/facts";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { copiesOf } from "../state/giving";
import { Amount } from "../ui/Amount";
import { Button, Check, Choice, LENGTH, NumberField } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { NameField } from "../ui/NameField";
import { shifted } from "../viewport/decalShape";
import { length } from "../words/length";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/drawer/OneDecal";
import { ClearFields } from "./ClearFields";
import { DecalReach } from "./DecalReach";
import { DecalSharpness } from "./DecalSharpness";
import { DrawingFields } from "./DrawingFields";
import { ExchangeFile } from "./ExchangeFile";
import { FinishFields } from "./FinishFields";

interface Props {
  reviewId: string;
  id: string;
  decal: Decal;
  model: Model;
  standing: Standing;
  edit: (change: Edit) => void;
}

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** mm. */
const stepOf = (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) =>
  event.shiftKey ? 0.1 : event.ctrlKey || event.metaKey ? 10 : 1;
const round = (mm: number) => Math.min(1e4, Math.max(0.1, Math.round(mm * 1000) / 1000));

/** How much larger a drawn decal is than its drawing. */
async function scaleOf(decal: Decal): Promise<number> {
  if (!decal.drawing) return 1;
  return decal.width / (await drawn(decal.drawing)).width;
}

/** A decal's drawing in the colour that another finish needs; undefined where it keeps the one that it has. */
function inkedFor({ drawing, finish }: Decal, next: Decal["finish"]): Drawing | undefined {
  if (!drawing || next.kind === finish.kind || drawing.kind === "warning" || drawing.kind === "voltage")
    return;
  // On a plate of its own it would not be seen any more.
  if ("behind" in drawing && drawing.behind) return;
  const usual = DRAWINGS[drawing.kind].color;
  const inkOf = (kind: string) => (INKS as Record<string, string>)[kind] ?? usual;
  // A colour that somebody selected stays.
  if (drawing.color !== inkOf(finish.kind) || inkOf(next.kind) === drawing.color) return;
  return { ...drawing, color: inkOf(next.kind) };
}

/** One decal: its size, place, what it is drawn from and made of. */
export function OneDecal({ reviewId, id, decal, model, standing, edit }: Props) {
  const set = (change: Partial<Decal>) =>
    edit({ kind: "set_decals", decals: { [id]: { ...decal, ...change } } });
  const isSelected = useDesk((state) => state.decal === id);
  const { looks = {} } = standing.scene;
  const card = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // Moved under the pointer, a button that is being pressed would miss its click.
    const used = card.current?.contains(document.activeElement);
    if (isSelected && !used) card.current?.scrollIntoView({ block: "nearest" });
  }, [isSelected]);
  const aspect = decal.width / decal.height;
  const resize = (width: number) => {
    const wide = Math.min(1e4, Math.max(0.1, width));
    set({ width: wide, height: Math.max(0.1, wide / aspect) });
  };
  const redraw = async (drawing: Drawing, more: Partial<Decal> = {}) => {
    try {
      const { picture, width, height } = await drawn(drawing);
      // A decal that was made larger or smaller stays so.
      const scale = await scaleOf(decal);
      set({ drawing, picture, width: round(width * scale), height: round(height * scale), ...more });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const finish = (next: Decal["finish"]) => {
    const inked = inkedFor(decal, next);
    if (inked) redraw(inked, { finish: next });
    else set({ finish: next });
  };
  const ids = Object.keys(standing.scene.decals).filter(
    (key) => standing.scene.decals[key]!.part === decal.part,
  );
  const raise = () => {
    // Laid down anew, it lies over all others.
    const fresh = `decal-${crypto.randomUUID().slice(0, 8)}`;
    edit({ kind: "set_decals", decals: { [id]: null, [fresh]: decal } });
    useDesk.setState({ decal: fresh });
  };
  const nudge = (event: React.KeyboardEvent) => {
    const way = ARROWS[event.key];
    if (!way || event.target !== event.currentTarget || decal.locked) return;
    const step = stepOf(event);
    shift(way[0] * step, way[1] * step);
    event.preventDefault();
    event.stopPropagation();
  };
  const shift = (right: number, up: number) => {
    set(shifted(decal, right, up));
  };
  const again = () =>
    useDesk.setState({
      pointing: "decal",
      decalInHand: { name: decal.name, picture: decal.picture, aspect, id },
    });
  const same = copiesOf(model, decal.part).filter(
    (node) =>
      !Object.values(standing.scene.decals).some(
        (one) =>
          one.part === node.uid && one.picture === decal.picture && `${one.center}` === `${decal.center}`,
      ),
  );
  const spread = () => {
    const made = same.map((node) => [
      `decal-${crypto.randomUUID().slice(0, 8)}`,
      { ...decal, part: node.uid },
    ]);
    edit({ kind: "set_decals", decals: Object.fromEntries(made) });
  };
  return (
    <div
      ref={card}
      data-decal={id}
      data-selected={isSelected}
      className={`flex flex-col gap-[7px] border-t pt-2 ${isSelected ? "border-mark" : "border-rule"}`}
      onFocusCapture={() => useDesk.setState({ decal: id })}
    >
      <div className="flex items-center gap-1.5">
        <input
          type="checkbox"
          aria-label={t.show(decal.name)}
          checked={decal.on}
          onChange={(event) => set({ on: event.target.checked })}
        />
        <NameField
          label={t.nameOfTheDecal}
          className="h-7 min-w-0 flex-1 rounded-md border border-transparent bg-transparent font-semibold hover:border-rule-strong focus:border-rule-strong focus:bg-white focus:px-1.5"
          value={decal.name}
          onCommit={(name) => set({ name })}
        />
        <Hint text={t.thenClickAnotherSpot}>
          <Button onClick={again}>{t.move}</Button>
        </Hint>
        <Button onClick={() => edit({ kind: "set_decals", decals: { [id]: null } })}>{t.remove}</Button>
      </div>
      <Row label={t.width}>
        <NumberField
          label={t.widthOfTheDecal}
          value={decal.width}
          digits={1}
          unit={LENGTH}
          onCommit={resize}
        />
      </Row>
      <Row label={t.height}>
        <NumberField
          label={t.heightOfTheDecal}
          value={decal.height}
          digits={1}
          unit={LENGTH}
          onCommit={(height) => resize(height * aspect)}
        />
      </Row>
      <DecalSharpness reviewId={reviewId} id={id} seq={standing.seq} isDrawn={decal.drawing !== null} />
      {!decal.drawing && <ExchangeFile {...{ decal, standing, edit }} />}
      {!decal.drawing && <ClearFields decal={decal} onChange={set} />}
      {decal.drawing && <DrawingFields drawing={decal.drawing} onChange={redraw} />}
      <Row label={t.shift}>
        <span className="flex gap-1">
          {(
            [
              ["left", "←", -1, 0],
              ["right", "→", 1, 0],
              ["up", "↑", 0, 1],
              ["down", "↓", 0, -1],
            ] as const
          ).map(([way, sign, right, up]) => (
            <Hint key={way} text={t.no1Mm01(way)}>
              <Button
                aria-label={t.shiftTheDecal(way)}
                onKeyDown={nudge}
                onClick={(event) => {
                  const step = stepOf(event);
                  shift(right * step, up * step);
                }}
              >
                {sign}
              </Button>
            </Hint>
          ))}
        </span>
      </Row>
      <Amount
        label={t.turn}
        value={decal.turn}
        min={-180}
        max={180}
        step={1}
        digits={0}
        unit="°"
        onCommit={(turn) => set({ turn })}
      />
      <Amount
        label={t.opacity}
        value={decal.opacity}
        min={0}
        max={1}
        step={0.01}
        onCommit={(opacity) => set({ opacity })}
      />
      <Amount
        label={t.depth}
        value={decal.depth}
        min={0.1}
        max={50}
        step={0.1}
        digits={1}
        unit={LENGTH}
        onCommit={(depth) => set({ depth })}
      />
      {decal.wrap && (
        <Row label={t.round}>
          <span className="why">
            {t.wrappedRadius(length(Math.abs(decal.wrap.radius)))}
            {decal.wrap.taper !== 0 && t.coneOf(decimals(Math.abs(2 * decal.wrap.taper)))}
          </span>
        </Row>
      )}
      <DecalReach {...{ reviewId, id, decal, model, set }} />
      {Object.keys(looks).length > 1 && (
        <Choice
          label={t.shownIn}
          title={t.looksInWhichThe}
          value={decal.look ?? ""}
          choices={[["", t.allLooks], ...Object.entries(looks).map(([key, one]) => [key, one.name] as const)]}
          onChange={(key) => set({ look: key || null })}
        />
      )}
      <FinishFields finish={decal.finish} onChange={finish} />
      <div className="flex items-center justify-between">
        <Check label={t.locked} checked={decal.locked} onChange={(checked) => set({ locked: checked })} />
        {ids.length > 1 && ids.at(-1) !== id && (
          <Hint text={t.itLiesOverThe}>
            <Button look="text" onClick={raise}>
              {t.toTheTop}
            </Button>
          </Hint>
        )}
      </div>
      <div className="flex items-center justify-between">
        <Check
          label={t.mirrored}
          checked={decal.mirrored}
          onChange={(checked) => set({ mirrored: checked })}
        />
        {same.length > 0 && (
          <Button look="text" onClick={spread}>
            {t.copyTo(same.length === 1 ? t.theSamePart : t.allSameParts(same.length))}
          </Button>
        )}
      </div>
    </div>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="flex items-center justify-between">
      <span>{label}</span>
      <span className="flex min-w-[100px] justify-end">{children}</span>
    </div>
  );
}
