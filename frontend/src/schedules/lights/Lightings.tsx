import { ArrowUp } from "lucide-react";
import { useState } from "react";
import type { Edit, Lighting, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { freshId, inOrder } from "../../state/lighting";
import { Button, Choice, IconButton } from "../../ui/controls";
import { Hint } from "../../ui/Hint";
import { NameField } from "../../ui/NameField";
import * as t from "../../words/texts/schedules/lights/Lightings";
import { KeptLightings } from "./KeptLightings";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  /** Of the lighting that lights the shot. */
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const OWN = "own";
const LAST = 9999;

/** The lightings of a review: which one is used, a copy to try another, a name. */
export function Lightings({ reviewId, standing, shotId, id, lighting, edit }: Props) {
  const { lightings, lit_by, shots } = standing.scene;
  const shot = shots[shotId]!;
  const [renaming, setRenaming] = useState(false);
  const beside = useDesk((state) => state.besideLighting);
  const isOwn = shot.lighting !== null;
  const order = inOrder(lightings);
  const put = (changed: Record<string, Required<Lighting> | null>, show: string | null = null) =>
    edit({ kind: "set_lightings", lightings: changed, show, define: {} });
  const moveUp = () => {
    const keys = order.map(([key]) => key);
    const at = keys.indexOf(id);
    keys.splice(at - 1, 2, id, keys[at - 1]!);
    const changed = keys.flatMap((key, place) =>
      lightings[key]!.place === place ? [] : [[key, { ...lightings[key]!, place }] as const],
    );
    put(Object.fromEntries(changed));
  };
  const use = (key: string) => {
    if (isOwn) edit({ kind: "set_shot", id: shotId, shot: { ...shot, lighting: key } });
    else put({}, key);
  };
  const copy = () => {
    const key = freshId(lightings, `lighting-${crypto.randomUUID().slice(0, 8)}`);
    const taken = new Set(Object.values(lightings).map((one) => one.name));
    const stem = lighting.name.replace(/ \d+$/, "");
    let name = `${stem} 2`;
    for (let number = 3; taken.has(name); number++) name = `${stem} ${number}`;
    put({ [key]: { ...lighting, name: name.slice(0, 60), place: LAST } }, isOwn ? null : key);
    if (isOwn) edit({ kind: "set_shot", id: shotId, shot: { ...shot, lighting: key } });
  };
  const remove = () => {
    const next = Object.keys(lightings).find((key) => key !== id)!;
    if (isOwn) edit({ kind: "set_shot", id: shotId, shot: { ...shot, lighting: null } });
    put({ [id]: null }, id === lit_by ? next : null);
  };
  const many = Object.keys(lightings).length > 1;
  // With all buttons beside it, a name would be cut off after some letters.
  const row = many ? "basis-full" : "";
  return (
    <section aria-label={t.lightings} className="flex flex-col gap-1.5 border-b border-rule px-3 py-2">
      <div className="flex flex-wrap items-center gap-1.5">
        {!renaming ? (
          <select
            aria-label={t.lightingInUse}
            className={`h-7 min-w-0 flex-1 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5 font-semibold ${row}`}
            value={id}
            onChange={(event) => use(event.target.value)}
          >
            {order.map(([key, one]) => (
              <option key={key} value={key}>
                {one.name}
              </option>
            ))}
          </select>
        ) : (
          <NameField
            label={t.nameOfTheLighting}
            autoFocus
            className={`h-7 min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-2 ${row}`}
            value={lighting.name}
            onCommit={(name) => edit({ kind: "set_lighting", id, lighting: { ...lighting, name } })}
            onLeave={() => setRenaming(false)}
          />
        )}
        <Button onClick={() => setRenaming(true)}>{t.rename}</Button>
        <Hint text={t.startAnotherLightingFrom}>
          <Button onClick={copy}>{t.copy}</Button>
        </Hint>
        {many && (
          <IconButton label={t.moveUpInThe} disabled={order[0]![0] === id} onClick={moveUp}>
            <ArrowUp size={14} />
          </IconButton>
        )}
        {many && <Button onClick={remove}>{t.remove}</Button>}
      </div>
      {many && (
        <Choice
          label={t.compareWith}
          value={beside && lightings[beside] && beside !== id ? beside : ""}
          choices={[
            ["", "none"],
            ...order.filter(([key]) => key !== id).map(([key, one]): [string, string] => [key, one.name]),
          ]}
          onChange={(key) => useDesk.setState({ besideLighting: key || undefined, besideShot: undefined })}
        />
      )}
      {many && (
        <label className="why flex items-center gap-1.5">
          <input
            type="checkbox"
            name={OWN}
            checked={isOwn}
            onChange={(event) =>
              edit({
                kind: "set_shot",
                id: shotId,
                shot: { ...shot, lighting: event.target.checked ? id : null },
              })
            }
          />
          {t.onlyForTheShot(shot.name)}
        </label>
      )}
      <KeptLightings {...{ reviewId, standing, id, edit }} />
    </section>
  );
}
