import type { Edit, Model, Placement, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, Hint } from "../../ui/controls";
import { nodeToMove, pivotOf } from "../../viewport/moving";
import { IN_PLACE } from "../../viewport/placement";
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
      <Section title="Place" fact="several parts">
        <p className="why">
          Choose one part, or a whole sub-assembly by its heading, to move it for the picture.
        </p>
      </Section>
    );
  const move = standing.scene.moves?.[target.uid];
  const put = (placement: Placement | null) =>
    edit({ kind: "move_parts", moves: { [target.uid]: placement } });
  return (
    <Section title={`Place of ${target.name}`} fact={move ? "moved" : "as in the file"}>
      <PlacementFields value={move ?? IN_PLACE} pivot={pivotOf(model, standing, target)} onCommit={put} />
      <div className="flex gap-1.5">
        <Hint text="Arrows to shift it and rings to turn it, in the picture" keys="M">
          <Button onClick={() => useDesk.setState({ handles: true })}>Handles</Button>
        </Hint>
        <Button disabled={!move} onClick={() => put(null)}>
          Reset
        </Button>
      </div>
    </Section>
  );
}
