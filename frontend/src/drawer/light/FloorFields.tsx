import type { Lighting, Standing } from "../../api/client";
import { useShelf } from "../../api/queries";
import { cameraOf } from "../../state/camera";
import { useDesk } from "../../state/deskStore";
import { Amount, Button, Choice, Hint, LENGTH, NumberField } from "../../ui/controls";

type Floor = Lighting["floor_finish"];

interface Props {
  standing: Standing;
  lighting: Lighting;
  setFloor: (change: Partial<Floor>) => void;
}

const KINDS: [Floor["kind"], string][] = [
  ["plain", "plain, joins the backdrop"],
  ["sweep", "sweep, curved up behind"],
  ["appearance", "an appearance"],
];
const PAPER = "";

/** What the floor is made of, how high it lies, and what shows on it. */
export function FloorFields({ standing, lighting, setFloor }: Props) {
  const { floor_finish } = lighting;
  const shelf = useShelf().data?.samples ?? [];
  const pointing = useDesk((state) => state.pointing);
  const isPlain = floor_finish.kind === "plain";
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
  return (
    <>
      <Choice
        label="Kind"
        title="Kind of floor"
        value={floor_finish.kind}
        choices={KINDS}
        onChange={(kind) => setKind(kind as Floor["kind"])}
      />
      {!isPlain && (
        <>
          <Choice
            label="Made of"
            value={floor_finish.appearance ?? PAPER}
            choices={[
              ...(floor_finish.kind === "sweep" ? ([[PAPER, "paper in the colour below"]] as const) : []),
              ...worn,
            ]}
            onChange={(id) => setFloor({ appearance: id === PAPER ? null : id })}
          />
          {floor_finish.kind === "sweep" && (
            <Hint text="The sweep rises behind the product, as seen from here">
              <Button className="shrink-0 self-start" onClick={() => setFloor({ turn: towardsView() })}>
                Turn to the view
              </Button>
            </Hint>
          )}
          <p className="why">
            Seen in the traced picture and in stills. Transparent stills have a plain floor.
          </p>
        </>
      )}
      {isPlain && (
        <>
          <Amount
            label="Reflection"
            topic="reflection"
            value={floor_finish.reflection}
            min={0}
            max={1}
            step={0.01}
            onCommit={(reflection) => setFloor({ reflection })}
          />
          <Amount
            label="Roughness"
            value={floor_finish.roughness}
            min={0}
            max={1}
            step={0.01}
            disabled={floor_finish.reflection === 0}
            onCommit={(roughness) => setFloor({ roughness })}
          />
          <Amount
            label="Shadow"
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
        <span>Above the lowest part</span>
        <span className="w-[80px]">
          <NumberField
            label="Height of the floor above the lowest part"
            value={floor_finish.lift}
            digits={1}
            unit={LENGTH}
            onCommit={(lift) => setFloor({ lift: Math.min(1e5, Math.max(-1e5, lift)) })}
          />
        </span>
      </div>
      <Hint text="Then click a point of the product: the floor lies at its height">
        <Button
          className="shrink-0 self-start"
          look={pointing === "floor" ? "ink" : "mark"}
          onClick={() => useDesk.setState({ pointing: pointing === "floor" ? undefined : "floor" })}
        >
          Floor at this height…
        </Button>
      </Hint>
    </>
  );
}
