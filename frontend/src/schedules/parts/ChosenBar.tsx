import { X } from "lucide-react";
import type { Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import type { PartActions } from "../../state/partActions";
import { countParts } from "../../state/rows";
import { Button, IconButton } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import * as t from "../../words/texts/schedules/parts/ChosenBar";
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
          {hidden > 0 ? t.hidden(countParts(hidden)) : t.hiddenInCadSuppressed(countParts(waiting.length))}
        </span>
        {hidden > 0 ? (
          <Hint text={t.showEveryHiddenPart} keys="Shift H">
            <Button look="mark" onClick={() => actions.showHidden()}>
              {t.showAll}
            </Button>
          </Hint>
        ) : (
          <Button look="mark" onClick={() => actions.set(waiting, null)}>
            {t.bringBack}
          </Button>
        )}
      </div>
    );
  }
  const allOut = uids.every((uid) => states[uid] === "suppressed");
  const allHidden = uids.every((uid) => states[uid] !== undefined);
  return (
    <div className="flex min-h-[45px] flex-wrap items-center gap-1.5 border-t border-rule-strong bg-mark-soft px-3 py-2">
      <b className="figures flex-1 font-semibold" title={t.selected(countParts(uids.length))}>
        {uids.length}
      </b>
      <AlikeMenu model={model} standing={standing} />
      {!allOut && (
        <Hint text={allHidden ? t.showWhatIsSelected : t.hideWhatIsSelected} keys="H">
          <Button look="mark" onClick={() => actions.hide()}>
            {allHidden ? t.show : t.hide}
          </Button>
        </Hint>
      )}
      <Hint text={t.hideEverythingElse} keys="O">
        <Button look="mark" onClick={() => actions.only()}>
          {t.onlyThese}
        </Button>
      </Hint>
      <Hint text={allOut ? t.bringBackIntoThe : t.leaveOutOfEverything} keys="S">
        <Button look="mark" onClick={() => actions.suppress()}>
          {allOut ? t.bringBack : t.suppress}
        </Button>
      </Hint>
      <IconButton label={t.clearSelection} keys="Esc" onClick={() => useDesk.getState().choose([])}>
        <X size={15} />
      </IconButton>
    </div>
  );
}
