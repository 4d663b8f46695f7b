import { useDesk } from "../state/deskStore";
import { Hint } from "../ui/Hint";
import * as t from "../words/texts/desk/LampSwitch";

export function toggleLamp() {
  useDesk.setState((desk) => ({ lamp: !desk.lamp, lampPaused: false, inset: undefined, region: undefined }));
}

/** Turns the picture on the desk from shaded to traced and back. */
export function LampSwitch() {
  const on = useDesk((state) => state.lamp);
  return (
    <Hint text={on ? t.backToTheShaded : t.traceTheLightIn} keys="L">
      <button
        type="button"
        role="switch"
        aria-checked={on}
        aria-label={t.lamp}
        data-guide="lamp"
        onClick={toggleLamp}
        className={`flex h-[30px] cursor-pointer items-center gap-2 rounded-full border pr-3 pl-1.5 font-medium ${
          on ? "border-lamp bg-lamp-soft" : "border-rule-strong bg-sheet hover:bg-white"
        }`}
      >
        <span
          aria-hidden="true"
          className={`h-5 w-5 rounded-full ${
            on
              ? "bg-[radial-gradient(circle_at_50%_45%,#fff6df_0_25%,#F5B44A_60%,var(--color-lamp))] shadow-[0_0_0_3px_#f7d08a77,0_0_14px_4px_#f2a83b88]"
              : "border-[1.5px] border-ink-3 bg-sunk"
          }`}
        />
        {on ? t.lampOn : t.lampOff}
      </button>
    </Hint>
  );
}
