import type { Edit, Lamp, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { lightingOf } from "../../state/lighting";
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
      <LightRows
        {...{ lighting, shares, selected: light, onSelect: select, onKey, setLighting, setLamp }}
        onPreview={(lightingPreview) => useDesk.setState({ lightingPreview })}
      />
      <AddLights {...{ reviewId, id, lighting, edit }} />
      <SurroundingsStrip {...{ reviewId, standing, shotId, id, lighting, edit }} />
    </div>
  );
}
