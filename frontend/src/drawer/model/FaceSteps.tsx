import type { AssemblyActions } from "../../api/assembly";
import type { Model, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button } from "../../ui/controls";
import * as t from "../../words/texts/drawer/model/FaceSteps";

interface Props {
  model: Model;
  standing: Standing;
  assembly: AssemblyActions;
}

/** What chosen faces are good for: put a model down on one, or lay it against a face of another model. */
export function FaceSteps({ model, standing, assembly }: Props) {
  const faces = useDesk((state) => state.faces);
  const owner = (uid: string) => model.nodes.find((node) => node.uid === uid)?.model ?? "model-1";
  const [first, second] = faces;
  if (!first || faces.length > 2) return null;
  const mine = owner(first.uid);
  const name = standing.scene.models[mine]?.name;
  const done = () => useDesk.setState({ pickFaces: false, faces: [], chosen: new Set() });
  if (!second)
    return (
      <Button
        look="mark"
        className="self-start"
        onClick={() => {
          assembly.place(mine, { face: first });
          done();
        }}
      >
        {t.put} {name} {t.downOnThisFace}
      </Button>
    );
  if (owner(second.uid) === mine)
    return (
      <p className="why">
        {t.selectTheSecondFace} {name} {t.againstIt}
      </p>
    );
  return (
    <Button
      look="mark"
      className="self-start"
      onClick={() => {
        assembly.place(mine, { face: first, against: second });
        done();
      }}
    >
      {t.lay} {name} {t.against} {standing.scene.models[owner(second.uid)]?.name}
    </Button>
  );
}
