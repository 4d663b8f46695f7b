import type { Edit, Shot, Standing, StillLine } from "../api/client";
import { PURPOSES } from "../api/generated/facts";
import { useAct } from "../api/queries";
import { boundedSide, startLike, useFirstShot } from "../api/stills";
import { toast } from "../api/toast";
import { cameraOf, type Optics, sameView, viewOf } from "../state/camera";
import { type Guides, useDesk } from "../state/deskStore";
import { countParts } from "../state/rows";
import { shotsInOrder } from "../state/shots";
import { Amount } from "../ui/Amount";
import { Button, Check, Choice, NumberField } from "../ui/controls";
import { Hint } from "../ui/Hint";
import { NameField } from "../ui/NameField";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/drawer/ShotDrawer";
import { Grading } from "./Grading";
import { LensFields } from "./LensFields";
import { SectionFields } from "./SectionFields";
import { StillFacts } from "./StillFacts";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  stills: StillLine[];
  edit: (change: Edit) => void;
}

/** The shot's lens, exposure and output; or the facts of the still that is looked at. */
export function ShotDrawer({ reviewId, standing, shotId, stills, edit }: Props) {
  const shownStill = useDesk((state) => state.shownStill);
  const still = stills.find((s) => s.id === shownStill);
  return still ? (
    <StillFacts key={still.id} reviewId={reviewId} still={still} />
  ) : (
    <ShotSettings {...{ reviewId, standing, shotId, edit }} />
  );
}

function ShotSettings({ reviewId, standing, shotId, edit }: Omit<Props, "stills">) {
  const view = useDesk((state) => state.view);
  const metered = useDesk((state) => state.frame?.metered);
  const guides = useDesk((state) => state.guides);
  const shot = standing.scene.shots[shotId] as Required<Shot>;
  const focal = shot.camera.focal_length;
  const commit = (change: Partial<Shot>) =>
    edit({ kind: "set_shot", id: shotId, shot: { ...shot, ...change } });
  const setLens = (value: number) => {
    // Step back as the lens gets longer, so that the product keeps its size.
    const base = viewOf(shot.camera);
    const arm = base.position
      .clone()
      .sub(base.target)
      .multiplyScalar(value / focal);
    const next = { ...base, focal: value, position: base.target.clone().add(arm) };
    commit({ camera: cameraOf(next) });
    useDesk.setState({ view: next });
  };
  const setOptics = (optics: Optics) => {
    commit({ camera: { ...shot.camera, ...optics } });
    useDesk.setState({ view: { ...(view ?? viewOf(shot.camera)), optics } });
  };
  const moved = view && !sameView(view, shot.camera);
  return (
    <>
      <header>
        <span className="cap">{t.shot(shotsInOrder(standing.scene.shots).indexOf(shotId) + 1)}</span>
        <NameField
          label={t.nameOfTheShot}
          value={shot.name}
          className="mt-1 block w-full border-b border-transparent bg-transparent text-[15px] font-semibold hover:border-rule focus:border-mark focus:outline-none"
          onCommit={(name) => commit({ name })}
        />
      </header>
      <div className="flex items-center justify-between">
        <Check
          label={t.locked}
          checked={shot.locked}
          onChange={(locked) => edit({ kind: "set_shot", id: shotId, shot: { ...shot, locked } })}
        />
        {shot.locked && <span className="why">{t.nothingHereCanBe}</span>}
      </div>
      <fieldset disabled={shot.locked} className="contents">
        <Amount
          label={t.lens}
          topic="lens"
          value={focal}
          min={18}
          max={300}
          step={0.01}
          digits={0}
          unit="mm"
          disabled={shot.locked}
          scale={Math.log2}
          unscale={(v) => Math.round(2 ** v)}
          onCommit={setLens}
        />
        <LensFields
          camera={shot.camera}
          sharp={standing.sharp[shotId]}
          locked={shot.locked}
          onChange={setOptics}
        />
        <Amount
          label={t.exposure}
          value={shot.exposure}
          min={4}
          max={14}
          step={0.1}
          digits={1}
          unit="EV"
          disabled={shot.locked}
          onCommit={(exposure) => commit({ exposure })}
        />
        {metered !== undefined && (
          <div className="-mt-1 flex items-center justify-end gap-2">
            <span className="why">{t.meteredOnTheProduct(decimals(metered, 1))}</span>
            <Button disabled={shot.locked} onClick={() => commit({ exposure: +metered.toFixed(1) })}>
              {t.use}
            </Button>
          </div>
        )}
        <Amount
          label={t.whiteBalance}
          value={shot.white}
          min={2000}
          max={20000}
          step={0.001}
          digits={0}
          unit="K"
          disabled={shot.locked}
          scale={(kelvin) => -1e6 / kelvin}
          unscale={(position) => Math.round(-1e6 / position)}
          onCommit={(white) => commit({ white })}
        />
        <div className="-mt-1 flex justify-end">
          <Button onClick={() => useDesk.setState({ pointing: "grey" })}>{t.byAGrey}</Button>
        </div>
        <Choice
          label={t.toneCurve}
          title={t.toneCurve}
          value={shot.tone}
          choices={TONES}
          onChange={(tone) => commit({ tone: tone as Shot["tone"] })}
        />
        <Grading key={shotId} {...{ shot, commit }} />
        <Choice
          label={t.madeFor}
          title={t.whatThePictureIs}
          value={purposeOf(shot)}
          choices={[...(purposeOf(shot) === OWN ? ([[OWN, t.aSizeOfIts]] as const) : []), ...FOR]}
          onChange={(name) => {
            const [width, height] = PURPOSES[name as keyof typeof PURPOSES];
            commit({ width, height });
          }}
        />
        <div className="grid grid-cols-[96px_1fr_14px_1fr] items-center gap-2">
          <span>{t.picture}</span>
          <NumberField
            label={t.width}
            value={shot.width}
            unit="px"
            onCommit={(v) => commit({ width: boundedSide(v) })}
          />
          <span className="text-center text-ink-3">x</span>
          <NumberField
            label={t.height}
            value={shot.height}
            unit="px"
            onCommit={(v) => commit({ height: boundedSide(v) })}
          />
        </div>
        <div className="-mt-1 flex justify-end">
          <Hint text={t.whatIsInsideA}>
            <Button onClick={() => useDesk.setState({ cropping: true })}>{t.cropByDragging}</Button>
          </Hint>
        </div>
        <Choice
          label={t.guides}
          title={t.guidesOverThePicture}
          value={guides}
          choices={GUIDES}
          onChange={(name) => useDesk.setState({ guides: name as Guides })}
        />
        <HiddenHere {...{ standing, shot, commit }} />
        <SectionFields key={`section ${shotId}`} {...{ reviewId, standing, shotId, shot, commit }} />
      </fieldset>
      <hr className="border-rule" />
      {moved ? (
        <div className="rounded-sm border border-rule bg-white px-2.5 py-[7px] text-[12px]">
          {t.theDeskShowsAnother}
          <div className="mt-2 flex gap-2">
            {!shot.locked && (
              <Button look="mark" onClick={() => commit({ camera: cameraOf(view) })}>
                {t.updateShot}
              </Button>
            )}
            <Button onClick={() => useDesk.setState({ view: viewOf(shot.camera) })}>{t.back}</Button>
          </div>
        </div>
      ) : (
        <p className="why">{t.turnOrMoveThe}</p>
      )}
      <StartLike reviewId={reviewId} shotId={shotId} />
    </>
  );
}

/** Keeps lens, size and finish of this shot as the start of new reviews. */
function StartLike({ reviewId, shotId }: { reviewId: string; shotId: string }) {
  const kept = useFirstShot().data;
  const act = useAct([t.firstShot]);
  return (
    <div className="flex flex-wrap items-center gap-x-3">
      <Button
        look="text"
        onClick={() =>
          act(() => startLike(reviewId, shotId)).then(
            () => toast(t.newReviewsStartWith),
            () => undefined,
          )
        }
      >
        {t.startNewReviewsLike}
      </Button>
      {kept && (
        <Button look="text" onClick={() => act(() => startLike(reviewId)).catch(() => undefined)}>
          {t.asShipped}
        </Button>
      )}
    </div>
  );
}

/** Parts that this shot alone does not show. */
function HiddenHere({
  standing,
  shot,
  commit,
}: {
  standing: Standing;
  shot: Required<Shot>;
  commit: (change: Partial<Shot>) => void;
}) {
  const chosen = useDesk((state) => state.chosen);
  const more = [...chosen].filter((uid) => standing.worn[uid] && !shot.hidden.includes(uid));
  const count = shot.hidden.length;
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="flex-1">
        {count === 0 ? t.hidesNothingInThis : t.hiddenInThisShot(countParts(count))}
      </span>
      {more.length > 0 && (
        <Button onClick={() => commit({ hidden: [...shot.hidden, ...more] })}>
          {t.hideHere(countParts(more.length))}
        </Button>
      )}
      {count > 0 && <Button onClick={() => commit({ hidden: [] })}>{t.showAllHere}</Button>}
    </div>
  );
}

const OWN = "";
const FOR = Object.keys(PURPOSES).map((name) => [name, name] as const);

function purposeOf({ width, height }: Required<Shot>): string {
  const fits = Object.entries(PURPOSES).find(([, [wide, high]]) => wide === width && high === height);
  return fits?.[0] ?? OWN;
}

const GUIDES = [
  ["none", "none"],
  ["thirds", "thirds"],
  ["centre", "centre"],
  [t.safeArea, t.safeArea90],
] as const;

const TONES = [
  ["neutral", "neutral"],
  ["filmic", "filmic"],
  ["linear", "linear"],
] as const;
