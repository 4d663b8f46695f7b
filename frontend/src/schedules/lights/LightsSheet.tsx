import { useRef } from "react";
import type { Edit, Lamp, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { lightingOf } from "../../state/lighting";
import { TypeAhead } from "../../ui/typeAhead";
import * as t from "../../words/texts/schedules/lights/LightRows";
import { AddLights } from "./AddLights";
import { Lightings } from "./Lightings";
import { LightRows } from "./LightRows";
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
  const typeAhead = useRef(new TypeAhead());
  const onKey = (event: React.KeyboardEvent) => {
    const rows = ["surroundings", "glow", ...lamps.map(([key]) => key)];
    const at = rows.indexOf(light);
    const last = rows.length - 1;
    const steps = { ArrowDown: Math.min(last, at + 1), ArrowUp: Math.max(0, at - 1), Home: 0, End: last };
    const names = [t.surroundings, t.glowingParts, ...lamps.map(([, lamp]) => lamp.name)];
    const next =
      typeAhead.current.find(event.nativeEvent, names, at) ?? steps[event.key as keyof typeof steps];
    if (next !== undefined) select(rows[next]!);
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
      <LightRows
        {...{ lighting, shares, selected: light, onSelect: select, onKey, setLighting, setLamp }}
        onPreview={(lightingPreview) => useDesk.setState({ lightingPreview })}
      />
      <AddLights {...{ reviewId, id, lighting, edit }} />
      <SurroundingsStrip {...{ reviewId, standing, shotId, id, lighting, edit }} />
    </div>
  );
}
