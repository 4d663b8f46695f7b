import type { AssemblyActions } from "../../api/assembly";
import type { Edit, Model, Standing } from "../../api/client";
import type { PartActions } from "../../desk/partActions";
import { FindingsList } from "./FindingsList";
import { Fineness } from "./Fineness";
import { ImportedColors } from "./ImportedColors";
import { ModelCard } from "./ModelCard";
import { Moves } from "./Moves";
import { PieceMaker } from "./PieceMaker";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  shotId: string;
  actions: PartActions;
  assembly: AssemblyActions;
  edit: (change: Edit) => void;
}

/** With nothing chosen the drawer is about the whole: what to clean up, how it stands, how fine it is. */
export function ModelDrawer({ reviewId, model, standing, shotId, actions, assembly, edit }: Props) {
  return (
    <div className="flex flex-col gap-2.5">
      <FindingsList {...{ reviewId, model, standing, actions }} />
      <ImportedColors {...{ reviewId, standing, edit }} />
      {Object.keys(standing.scene.models).map((id) => (
        <ModelCard key={id} {...{ reviewId, id, model, standing, assembly, edit }} />
      ))}
      <Moves {...{ model, standing, edit }} />
      <Fineness {...{ model, shotId, assembly }} uids={[]} />
      <PieceMaker {...{ reviewId, standing, assembly }} />
    </div>
  );
}
