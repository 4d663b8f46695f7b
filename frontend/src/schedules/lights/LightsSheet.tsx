import type { Edit, Standing } from "../../api/client";
import { useLightings } from "../../api/queries";
import { SurroundingsMap } from "./SurroundingsMap";

interface Props {
  standing: Standing;
  edit: (change: Edit) => void;
}

/** The schedule of lightings: which surroundings light the product. */
export function LightsSheet({ standing, edit }: Props) {
  const choices = useLightings();
  const lighting = standing.scene.lighting!;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" role="radiogroup" aria-label="Lighting">
      {choices.data?.map(({ name, label }) => {
        const on = lighting.surroundings === name;
        return (
          <button
            key={name}
            type="button"
            role="radio"
            aria-checked={on}
            className={`grid w-full cursor-pointer grid-cols-[132px_1fr] items-center gap-3 border-b border-rule px-3 py-[11px] text-left ${
              on ? "bg-mark-soft shadow-[inset_3px_0_0_var(--color-mark)]" : "hover:bg-paper"
            }`}
            onClick={() =>
              !on && edit({ kind: "set_lighting", lighting: { ...lighting, surroundings: name } })
            }
          >
            <SurroundingsMap name={name} />
            <span>
              <b className="font-semibold">{label}</b>
              <br />
              <span className="why">{on ? "lights the product now" : "choose to light with it"}</span>
            </span>
          </button>
        );
      })}
      <p className="why px-3 py-3">
        The strip shows what surrounds the product, front in the middle. Turn and brightness are in the
        drawer.
      </p>
    </div>
  );
}
