import { useState } from "react";
import type { AssemblyActions } from "../../api/assembly";
import type { Model } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, NumberField } from "../../ui/controls";
import * as t from "../../words/texts/drawer/model/Mending";
import { Section } from "./Section";

interface Props {
  model: Model;
  uids: string[];
  assembly: AssemblyActions;
}

/** What was wrong with meshes as they came, and what can be done by hand: turn over, smooth with a crease angle. */
export function Mending({ model, uids, assembly }: Props) {
  const [crease, setCrease] = useState(30);
  const shows = useDesk((state) => state.showsDefects);
  const wanted = new Set(uids);
  const keys = new Set(
    model.nodes.filter((node) => wanted.has(node.uid)).map((node) => node.definition ?? ""),
  );
  const meshes = [...keys]
    .flatMap((key) => model.definitions[key] ?? [])
    .filter((definition) => !definition.exact);
  if (meshes.length === 0) return null;
  const defects = meshes.flatMap((definition) =>
    (definition.defects ?? []).map((words) => [definition.name, words]),
  );
  return (
    <Section title={t.mesh} fact={defects.length ? t.mendedOrOdd(defects.length) : "sound"}>
      {defects.map(([name, words]) => (
        <p key={`${name}${words}`} className="text-[12px]">
          <b className="font-semibold">{name}</b>: {words}
        </p>
      ))}
      <label className="flex cursor-pointer items-center gap-2 text-[12px]">
        <input
          type="checkbox"
          className="accent-mark"
          checked={shows}
          onChange={(event) => useDesk.setState({ showsDefects: event.target.checked })}
        />
        {t.showOpenEdgesAnd}
      </label>
      <div className="flex items-end gap-3">
        <Button onClick={() => assembly.tessellate({ uids, flip: true })}>{t.turnInsideOut}</Button>
        <div className="w-20">
          <span className="why">{t.crease}</span>
          <NumberField
            label={t.creaseAngle}
            value={crease}
            unit="°"
            onCommit={(value) => setCrease(Math.min(180, Math.max(0, value)))}
          />
        </div>
        <Button onClick={() => assembly.tessellate({ uids, crease })}>{t.smooth}</Button>
      </div>
      <p className="why">{t.edgesSharperThanThe}</p>
    </Section>
  );
}
