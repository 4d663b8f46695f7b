import type { Edit, Model, Placement, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { nodeToMove, pivotOf } from "../../viewport/moving";
import { IN_PLACE } from "../../viewport/placement";
import * as t from "../../words/texts/drawer/model/PartPlace";
import { PlacementFields } from "./PlacementFields";
import { Section } from "./Section";

interface Props {
  model: Model;
  standing: Standing;
  edit: (change: Edit) => void;
}

/** Where the chosen part or sub-assembly was put for the picture. */
export function PartPlace({ model, standing, edit }: Props) {
  const chosen = useDesk((state) => state.chosen);
  const target = nodeToMove(model, chosen);
  if (!target)
    return (
      <Section title={t.place} fact={t.severalParts}>
        <p className="why">{t.chooseOnePartOr}</p>
      </Section>
    );
  const move = standing.scene.moves?.[target.uid];
  const put = (placement: Placement | null) =>
    edit({ kind: "move_parts", moves: { [target.uid]: placement } });
  return (
    <Section title={t.placeOf(target.name)} fact={move ? "moved" : t.asInTheFile}>
      <PlacementFields value={move ?? IN_PLACE} pivot={pivotOf(model, standing, target)} onCommit={put} />
      <div className="flex gap-1.5">
        <Hint text={t.arrowsToShiftIt} keys="M">
          <Button onClick={() => useDesk.setState({ handles: true })}>{t.handles}</Button>
        </Hint>
        <Button disabled={!move} onClick={() => put(null)}>
          {t.reset}
        </Button>
      </div>
    </Section>
  );
}
