import { X } from "lucide-react";
import type { Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import type { PartActions } from "../../state/partActions";
import { countParts } from "../../state/rows";
import { Button, Hint, IconButton } from "../../ui/controls";
import { AlikeMenu } from "./AlikeMenu";

interface Props {
  model: Model;
  standing: Standing;
  actions: PartActions;
}

/** The foot of the schedule: how many parts are chosen and what can be done with them. */
export function ChosenBar({ model, standing, actions }: Props) {
  const chosen = useDesk((state) => state.chosen);
  const uids = [...chosen];
  const states = standing.scene.states;
  const hidden = Object.values(states).filter((state) => state === "hidden").length;
  const waiting = model.hidden_in_cad.filter((uid) => states[uid] === "suppressed");
  if (uids.length === 0) {
    if (hidden + waiting.length === 0) return null;
    return (
      <div className="flex min-h-[45px] items-center gap-2 border-t border-rule-strong bg-sheet px-3 py-2">
        <span className="min-w-0 flex-1">
          {hidden > 0
            ? `${countParts(hidden)} hidden`
            : `${countParts(waiting.length)} hidden in CAD, suppressed`}
        </span>
        {hidden > 0 ? (
          <Hint text="Show every hidden part" keys="Shift H">
            <Button look="mark" onClick={() => actions.showHidden()}>
              Show all
            </Button>
          </Hint>
        ) : (
          <Button look="mark" onClick={() => actions.set(waiting, null)}>
            Bring back
          </Button>
        )}
      </div>
    );
  }
  const allOut = uids.every((uid) => states[uid] === "suppressed");
  const allHidden = uids.every((uid) => states[uid] !== undefined);
  return (
    <div className="flex min-h-[45px] flex-wrap items-center gap-1.5 border-t border-rule-strong bg-mark-soft px-3 py-2">
      <b className="figures flex-1 font-semibold" title={`${countParts(uids.length)} selected`}>
        {uids.length}
      </b>
      <AlikeMenu model={model} standing={standing} />
      {!allOut && (
        <Hint text={allHidden ? "Show what is selected" : "Hide what is selected"} keys="H">
          <Button look="mark" onClick={() => actions.hide()}>
            {allHidden ? "Show" : "Hide"}
          </Button>
        </Hint>
      )}
      <Hint text="Hide everything else" keys="O">
        <Button look="mark" onClick={() => actions.only()}>
          Only these
        </Button>
      </Hint>
      <Hint text={allOut ? "Bring back into the model" : "Leave out of everything that is computed"} keys="S">
        <Button look="mark" onClick={() => actions.suppress()}>
          {allOut ? "Bring back" : "Suppress"}
        </Button>
      </Hint>
      <IconButton label="Clear selection" keys="Esc" onClick={() => useDesk.getState().choose([])}>
        <X size={15} />
      </IconButton>
    </div>
  );
}
