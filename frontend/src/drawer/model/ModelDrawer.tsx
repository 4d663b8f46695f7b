import type { AssemblyActions } from "../../api/assembly";
import type { Edit, Model, Standing } from "../../api/client";
import type { PartActions } from "../../state/partActions";
import { FindingsList } from "./FindingsList";
import { Fineness } from "./Fineness";
import { ImportedColors } from "./ImportedColors";
import { ModelCard } from "./ModelCard";
import { Moves } from "./Moves";
import { PieceMaker } from "./PieceMaker";
import { RoundedEdges } from "./RoundedEdges";
import { Source } from "./Source";

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
  const models = Object.entries(standing.scene.models);
  const files = models.filter(([, use]) => !use.piece);
  return (
    <div className="flex flex-col gap-2.5">
      <FindingsList {...{ reviewId, model, standing, actions }} />
      <ImportedColors {...{ reviewId, standing, edit }} />
      {models.map(([id]) => (
        <ModelCard key={id} {...{ reviewId, id, model, standing, assembly, edit }} />
      ))}
      {files.map(([id, use]) => (
        <Source key={id} {...{ reviewId, id, assembly }} name={files.length > 1 ? use.name : undefined} />
      ))}
      <Moves {...{ model, standing, edit }} />
      <Fineness {...{ model, shotId, assembly }} uids={[]} />
      <RoundedEdges {...{ standing, edit }} />
      <PieceMaker {...{ reviewId, standing, assembly }} />
    </div>
  );
}
