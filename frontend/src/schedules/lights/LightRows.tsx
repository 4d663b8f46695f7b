import type { Lamp, Lighting } from "../../api/client";
import { lampWords } from "../../state/lighting";
import * as t from "../../words/texts/schedules/lights/LightRows";
import { columns, LightRow } from "./LightRow";

interface Props {
  lighting: Lighting;
  /** Of the light in the traced picture. */
  shares?: Record<string, number>;
  selected?: string;
  onSelect?: (light: string) => void;
  onKey?: (event: React.KeyboardEvent) => void;
  setLighting: (change: Partial<Lighting>) => void;
  setLamp: (key: string, lamp: Lamp) => void;
  narrow?: boolean;
  /** While a level is dragged. */
  onPreview?: (change: Partial<Lighting>) => void;
}

/** All that gives light in a lighting, as a list with switches and levels. */
export function LightRows({
  lighting,
  shares,
  selected,
  onSelect = () => {},
  onKey,
  setLighting,
  setLamp,
  narrow = false,
  onPreview,
}: Props) {
  return (
    <>
      <div
        className={`cap grid items-center gap-1.5 border-b border-rule bg-sunk py-[7px] ${columns(narrow)}`}
      >
        <span className="col-start-3">{t.light}</span>
        <span className={narrow ? "col-span-2" : ""}>{t.levelEv}</span>
        {!narrow && <span className="col-span-2 text-right">{t.share}</span>}
      </div>
      <div role="grid" tabIndex={0} aria-label={t.lights} onKeyDown={onKey}>
        <LightRow
          {...{ narrow }}
          kind="surroundings"
          name={t.surroundings}
          words={surroundingsWords(lighting.turn)}
          on={lighting.on}
          level={Math.log2(Math.max(lighting.brightness, 2 ** -12))}
          share={shares?.environment}
          selected={selected === "surroundings"}
          onSelect={() => onSelect("surroundings")}
          onSwitch={(on) => setLighting({ on })}
          onPreview={(level) => onPreview?.({ brightness: 2 ** level })}
          onLevel={(level) => setLighting({ brightness: 2 ** level })}
          most={6}
        />
        <LightRow
          {...{ narrow }}
          kind="glow"
          name={t.glowingParts}
          words={t.displaysIndicators}
          on={lighting.glows}
          level={lighting.glow}
          share={shares?.glow}
          selected={selected === "glow"}
          onSelect={() => onSelect("glow")}
          onSwitch={(glows) => setLighting({ glows })}
          onLevel={(glow) => setLighting({ glow })}
        />
        {Object.entries(lighting.lamps).map(([key, lamp]) => (
          <LightRow
            key={key}
            {...{ narrow }}
            kind={lamp.kind}
            name={lamp.name}
            words={lampWords(lamp)}
            on={lamp.on}
            level={lamp.level}
            share={shares?.[key]}
            selected={selected === key}
            onSelect={() => onSelect(key)}
            onSwitch={(on) => setLamp(key, { ...lamp, on })}
            onPreview={(level) => onPreview?.({ lamps: { ...lighting.lamps, [key]: { ...lamp, level } } })}
            onLevel={(level) => setLamp(key, { ...lamp, level })}
          />
        ))}
      </div>
    </>
  );
}

function surroundingsWords(turn: number): string {
  return turn === 0 ? t.fromAllAround : t.fromAllAroundRotated(Math.round(turn));
}
