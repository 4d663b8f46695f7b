import { Plus } from "lucide-react";
import type { AssemblyActions, Piece } from "../../api/assembly";
import type { Standing } from "../../api/client";
import { modelFiles, useSend } from "../../api/upload";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { Hint } from "../../ui/Hint";
import { sizeWords } from "../../words/length";
import * as t from "../../words/texts/drawer/model/PieceMaker";
import { Section } from "./Section";

interface Props {
  reviewId: string;
  standing: Standing;
  assembly: AssemblyActions;
}

/** Further models from files, or a piece of context made in place, sized after what is there. */
export function PieceMaker({ reviewId, standing, assembly }: Props) {
  const send = useSend();
  const [w, d, h] = (standing.size ?? [200, 200, 200]).map((v) => Math.max(10, Math.round(v / 10) * 10)) as [
    number,
    number,
    number,
  ];
  const pieces: [Piece["kind"], string, [number, number, number]][] = [
    ["table top", t.tabletop, [w * 4, d * 4, 28]],
    ["wall", t.wall, [w * 4, 20, h * 3]],
    ["plinth", t.plinth, [w * 1.4, d * 1.4, Math.max(20, h * 0.4)]],
    ["box", t.box, [w * 0.4, w * 0.4, w * 0.4]],
  ];
  return (
    <Section title={t.addToTheScene}>
      <FileButton
        label={t.anotherModel}
        onFiles={async (files) => {
          for (const model of await modelFiles(files)) send(model, { purpose: "add", review_id: reviewId });
        }}
      >
        <Plus size={12} className="mr-1 inline" />
        {t.furtherModels}
      </FileButton>
      <div className="flex flex-wrap gap-1.5">
        {pieces.map(([kind, words, size]) => (
          <Hint key={kind} text={t.changeItAfterwards(sizeWords(size))}>
            <Button onClick={() => assembly.piece({ kind, size })}>{words}</Button>
          </Hint>
        ))}
      </div>
    </Section>
  );
}
