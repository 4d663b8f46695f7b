import { Switch } from "radix-ui";
import { memo } from "react";
import type { Edit, Lighting, Standing } from "../api/client";
import { useLightings } from "../api/queries";
import { useDesk } from "../state/deskStore";
import { Amount, ColorField } from "../ui/controls";

interface Props {
  standing: Standing;
  edit: (change: Edit) => void;
}

/** Brightness and turn of the surroundings, floor and backdrop. */
export const LightDrawer = memo(function LightDrawer({ standing, edit }: Props) {
  const lighting = standing.scene.lighting as Required<Lighting>;
  const label = useLightings().data?.find((choice) => choice.name === lighting.surroundings)?.label ?? "";
  const backdrop = lighting.backdrop as Required<NonNullable<Lighting["backdrop"]>>;
  const preview = (change: Partial<Lighting>) => useDesk.setState({ lightingPreview: change });
  const commit = (change: Partial<Lighting>) => {
    useDesk.setState({ lightingPreview: {} });
    edit({ kind: "set_lighting", lighting: { ...lighting, ...change } });
  };
  return (
    <>
      <header>
        <span className="cap">Lighting</span>
        <b className="mt-1.5 block text-[15px] font-semibold">{label}</b>
      </header>
      <Amount
        label="Brightness"
        value={lighting.brightness}
        min={0}
        max={8}
        step={0.01}
        scale={(v) => Math.log2(Math.max(v, 0.04))}
        unscale={(position) => (position < Math.log2(0.045) ? 0 : 2 ** position)}
        unit="x"
        onPreview={(brightness) => preview({ brightness })}
        onCommit={(brightness) => commit({ brightness })}
      />
      <Amount
        label="Turn"
        value={lighting.turn}
        min={-180}
        max={180}
        step={1}
        digits={0}
        unit="°"
        onPreview={(turn) => preview({ turn })}
        onCommit={(turn) => commit({ turn })}
      />
      <hr className="border-rule" />
      <span className="cap">Floor and backdrop</span>
      <div className="flex items-center justify-between">
        <label htmlFor="floor">Floor with shadow and reflection</label>
        <Switch.Root
          id="floor"
          checked={lighting.floor}
          onCheckedChange={(floor) => commit({ floor })}
          className="h-[16px] w-[30px] cursor-pointer rounded-full border border-ink bg-white data-[state=checked]:bg-ink"
        >
          <Switch.Thumb className="block h-[10px] w-[10px] translate-x-[2px] rounded-full bg-ink data-[state=checked]:translate-x-[16px] data-[state=checked]:bg-white" />
        </Switch.Root>
      </div>
      <div className="flex items-center justify-between">
        <span>Backdrop</span>
        <select
          aria-label="Kind of backdrop"
          className="h-7 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
          value={backdrop.kind}
          onChange={(event) =>
            commit({ backdrop: { ...backdrop, kind: event.target.value as "plain" | "gradient" } })
          }
        >
          <option value="plain">plain</option>
          <option value="gradient">gradient</option>
        </select>
      </div>
      <ColorField
        label={backdrop.kind === "plain" ? "Colour" : "Below, floor"}
        value={backdrop.bottom}
        onCommit={(bottom) => commit({ backdrop: { ...backdrop, bottom } })}
      />
      {backdrop.kind === "gradient" && (
        <ColorField
          label="Above"
          value={backdrop.top}
          onCommit={(top) => commit({ backdrop: { ...backdrop, top } })}
        />
      )}
      <p className="why">
        The floor lies on the lowest part that is shown and takes the colour of the backdrop.
      </p>
    </>
  );
});
