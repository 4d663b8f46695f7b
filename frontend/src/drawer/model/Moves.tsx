import { Undo2 } from "lucide-react";
import type { Edit, Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, IconButton } from "../../ui/controls";
import { length } from "../../words/length";
import * as t from "../../words/texts/drawer/model/Moves";
import { Section } from "./Section";

interface Props {
  model: Model;
  standing: Standing;
  edit: (change: Edit) => void;
}

/** What was moved for the picture, with the way back. */
export function Moves({ model, standing, edit }: Props) {
  const moves = Object.entries(standing.scene.moves);
  if (moves.length === 0) return null;
  const names = new Map(model.nodes.map((node) => [node.uid, node.name]));
  const reset = (uids: string[]) =>
    edit({ kind: "move_parts", moves: Object.fromEntries(uids.map((uid) => [uid, null])) });
  return (
    <Section title={t.movedParts} fact={moves.length}>
      {moves.map(([uid, move]) => (
        <div key={uid} className="flex items-center">
          <button
            type="button"
            className="min-w-0 flex-1 cursor-pointer truncate text-left hover:text-mark"
            onClick={() => useDesk.getState().choose([uid])}
          >
            {names.get(uid) ?? t.aPartThatIs}{" "}
            <span className="why">{move.shift.map((v) => length(v, 0)).join(", ")}</span>
          </button>
          <IconButton label={t.putItBack} className="!h-6 !w-6" onClick={() => reset([uid])}>
            <Undo2 size={13} />
          </IconButton>
        </div>
      ))}
      <Button className="self-start" onClick={() => reset(moves.map(([uid]) => uid))}>
        {t.putAllBack}
      </Button>
    </Section>
  );
}
