import type { Lighting, Standing } from "../../api/client";
import { useShelf } from "../../api/queries";
import { cameraOf } from "../../state/camera";
import { useDesk } from "../../state/deskStore";
import { Amount } from "../../ui/Amount";
import { Button, Choice, LENGTH, NumberField } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/drawer/light/FloorFields";

type Floor = Lighting["floor_finish"];

interface Props {
  standing: Standing;
  id: string;
  lighting: Lighting;
  setFloor: (change: Partial<Floor>) => void;
}

const KINDS: [Floor["kind"], string][] = [
  ["plain", t.plainJoinsTheBackdrop],
  ["sweep", t.sweepCurvedUpBehind],
  ["appearance", t.anAppearance],
];
const PAPER = "";
const LEVEL = "";

/** What the floor is made of, how high it lies, and what shows on it. */
export function FloorFields({ standing, id, lighting, setFloor }: Props) {
  const { floor_finish } = lighting;
  const shelf = useShelf().data?.samples ?? [];
  const pointing = useDesk((state) => state.pointing);
  const isPlain = floor_finish.kind === "plain";
  // In a transparent still an appearance is there by its reflection alone, and a sweep is a plain floor.
  const isCaught = lighting.backdrop.transparent || isPlain;
  const hasOwnGloss = floor_finish.kind === "appearance";
  const own = Object.values(standing.scene.appearances);
  const known = new Set(own.map((one) => one.id));
  const samples = shelf.filter((one) => !one.kept && !known.has(one.appearance.id));
  const worn: [string, string][] = [...own, ...samples.map((one) => one.appearance)].map((one) => [
    one.id,
    one.name,
  ]);
  const towardsView = () => {
    const { view } = useDesk.getState();
    if (!view) return 0;
    const { position, target } = cameraOf(view);
    const [x, y] = [position[0] - target[0], position[1] - target[1]];
    return Math.round((Math.atan2(x, -y) * 180) / Math.PI);
  };
  const setKind = (kind: Floor["kind"]) => {
    if (kind === "sweep") setFloor({ kind, appearance: null, turn: towardsView() });
    else if (kind === "appearance") setFloor({ kind, appearance: floor_finish.appearance ?? "oak" });
    else setFloor({ kind });
  };
  const { models } = standing.scene;
  const isGrounded = lighting.backdrop.grounded && lighting.backdrop.kind === "environment";
  const tiltWith = (model: string) => {
    const use = models[model];
    setFloor({ tilts: use ? { model, turn: use.placement.turn } : null });
  };
  return (
    <>
      <Choice
        label={t.kind}
        title={t.kindOfFloor}
        value={floor_finish.kind}
        choices={KINDS}
        onChange={(kind) => setKind(kind as Floor["kind"])}
      />
      {!isPlain && (
        <>
          <Choice
            label={t.madeOf}
            value={floor_finish.appearance ?? PAPER}
            choices={[
              ...(floor_finish.kind === "sweep" ? ([[PAPER, t.paperInTheColour]] as const) : []),
              ...worn,
            ]}
            onChange={(id) => setFloor({ appearance: id === PAPER ? null : id })}
          />
          {floor_finish.kind === "sweep" && (
            <Hint text={t.theSweepRisesBehind}>
              <Button className="shrink-0 self-start" onClick={() => setFloor({ turn: towardsView() })}>
                {t.turnToTheView}
              </Button>
            </Hint>
          )}
          <p className="why">
            {!lighting.backdrop.transparent
              ? t.seenInTheTraced
              : hasOwnGloss
                ? t.onlyItsReflection
                : t.aPlainFloor}
          </p>
        </>
      )}
      {isCaught && (
        <>
          <Amount
            label={t.reflection}
            topic="reflection"
            value={floor_finish.reflection}
            min={0}
            max={1}
            step={0.01}
            onCommit={(reflection) => setFloor({ reflection })}
          />
          <Amount
            label={t.roughness}
            value={floor_finish.roughness}
            min={0}
            max={1}
            step={0.01}
            disabled={floor_finish.reflection === 0 || hasOwnGloss}
            onCommit={(roughness) => setFloor({ roughness })}
          />
          <Amount
            label={t.shadow}
            topic="shadow"
            value={floor_finish.shadow}
            min={0}
            max={1}
            step={0.01}
            onCommit={(shadow) => setFloor({ shadow })}
          />
        </>
      )}
      <div className="flex items-center justify-between">
        <span>{t.aboveTheLowestPart}</span>
        <span className="w-[80px]">
          <NumberField
            label={t.heightOfTheFloor}
            value={floor_finish.lift}
            digits={1}
            unit={LENGTH}
            onCommit={(lift) => setFloor({ lift: Math.min(1e5, Math.max(-1e5, lift)) })}
          />
        </span>
      </div>
      <Choice
        label={t.tilt}
        title={t.tiltOfTheFloor}
        value={(!isGrounded && floor_finish.tilts?.model) || LEVEL}
        disabled={isGrounded}
        choices={[
          [LEVEL, t.staysLevel],
          ...Object.entries(models).map(([id, { name }]): [string, string] => [id, t.tiltedWith(name)]),
        ]}
        onChange={tiltWith}
      />
      {isGrounded && <p className="why">{t.whereTheSurroundingsLie}</p>}
      {!isGrounded && floor_finish.tilts && !standing.tilted[id] && <p className="why">{t.tiltTheModel}</p>}
      <Hint text={t.thenClickAPoint}>
        <Button
          className="shrink-0 self-start"
          look={pointing === "floor" ? "ink" : "mark"}
          onClick={() => useDesk.setState({ pointing: pointing === "floor" ? undefined : "floor" })}
        >
          {t.floorAtThisHeight}
        </Button>
      </Hint>
    </>
  );
}
