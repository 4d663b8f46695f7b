import type { Edit, Lamp, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { lampWords, lightingOf } from "../../state/lighting";
import { AddLights } from "./AddLights";
import { Lightings } from "./Lightings";
import { LightRow } from "./LightRow";
import { SurroundingsStrip } from "./SurroundingsStrip";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  edit: (change: Edit) => void;
}

/** The schedule of lights: which lighting is used, what gives light in it, and the surroundings to select from. */
export function LightsSheet({ reviewId, standing, shotId, edit }: Props) {
  const { id, lighting } = lightingOf(standing, shotId);
  const light = useDesk((state) => state.light);
  const shares = useDesk((state) => (state.lamp ? state.frame?.shares : undefined));
  const lamps = Object.entries(lighting.lamps);
  const select = (name: string) => useDesk.setState({ light: name, pointing: undefined });
  const setLighting = (change: Partial<typeof lighting>) => {
    useDesk.setState({ lightingPreview: {} });
    edit({ kind: "set_lighting", id, lighting: { ...lighting, ...change } });
  };
  const setLamp = (key: string, lamp: Lamp) => {
    useDesk.setState({ lightingPreview: {} });
    edit({ kind: "set_lamps", id, lamps: { [key]: lamp } });
  };
  const onKey = (event: React.KeyboardEvent) => {
    const rows = ["surroundings", "glow", ...lamps.map(([key]) => key)];
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const at = rows.indexOf(light);
    if (by) select(rows[Math.min(rows.length - 1, Math.max(0, at + by))]!);
    else if (event.key === "Delete" && lighting.lamps[light]) {
      edit({ kind: "set_lamps", id, lamps: { [light]: null } });
      select(rows[at - 1]!);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-y-auto">
      <Lightings {...{ reviewId, standing, shotId, id, lighting, edit }} />
      <div className="cap grid grid-cols-[22px_24px_1fr_84px_44px_42px] items-center gap-1.5 border-b border-rule bg-sunk px-3 py-[7px]">
        <span className="col-start-3">Light</span>
        <span>Level, EV</span>
        <span className="col-span-2 text-right">Share</span>
      </div>
      <div role="listbox" tabIndex={0} aria-label="Lights" onKeyDown={onKey}>
        <LightRow
          kind="surroundings"
          name="Surroundings"
          words={surroundingsWords(lighting.turn)}
          on={lighting.on}
          level={Math.log2(Math.max(lighting.brightness, 2 ** -12))}
          share={shares?.environment}
          selected={light === "surroundings"}
          onSelect={() => select("surroundings")}
          onSwitch={(on) => setLighting({ on })}
          onPreview={(level) => useDesk.setState({ lightingPreview: { brightness: 2 ** level } })}
          onLevel={(level) => setLighting({ brightness: 2 ** level })}
          most={6}
        />
        <LightRow
          kind="glow"
          name="Glowing parts"
          words="displays, indicators"
          on={lighting.glows}
          level={lighting.glow}
          share={shares?.glow}
          selected={light === "glow"}
          onSelect={() => select("glow")}
          onSwitch={(glows) => setLighting({ glows })}
          onLevel={(glow) => setLighting({ glow })}
        />
        {lamps.map(([key, lamp]) => (
          <LightRow
            key={key}
            kind={lamp.kind}
            name={lamp.name}
            words={lampWords(lamp)}
            on={lamp.on}
            level={lamp.level}
            share={shares?.[key]}
            selected={light === key}
            onSelect={() => select(key)}
            onSwitch={(on) => setLamp(key, { ...lamp, on })}
            onPreview={(level) =>
              useDesk.setState({
                lightingPreview: { lamps: { ...lighting.lamps, [key]: { ...lamp, level } } },
              })
            }
            onLevel={(level) => setLamp(key, { ...lamp, level })}
          />
        ))}
      </div>
      <AddLights {...{ reviewId, id, lighting, edit }} />
      <SurroundingsStrip {...{ reviewId, standing, shotId, id, lighting, edit }} />
    </div>
  );
}

function surroundingsWords(turn: number): string {
  return turn === 0 ? "from all around" : `from all around, rotated ${Math.round(turn)}°`;
}
