import type { Edit, Standing } from "../../api/client";
import { useDesk } from "../../state/deskStore";
import { Button, Choice } from "../../ui/controls";
import { NameField } from "../../ui/NameField";
import * as t from "../../words/texts/schedules/appearances/Looks";
import { looksEdit } from "./uses";

interface Props {
  standing: Standing;
  edit: (change: Edit) => void;
}

/** The looks of a review: which one is shown, a copy to try another, a name. */
export function Looks({ standing, edit }: Props) {
  const { looks = {}, look: shown = "standard" } = standing.scene;
  const now = looks[shown]!;
  const beside = useDesk((state) => state.beside);
  const copy = () => {
    const id = `look-${crypto.randomUUID().slice(0, 8)}`;
    const taken = new Set(Object.values(looks).map((look) => look.name));
    let name = `${now.name} 2`;
    for (let number = 3; taken.has(name); number++) name = `${now.name} ${number}`;
    edit(looksEdit({ looks: { [id]: { ...now, name: name.slice(0, 60) } }, show: id }));
  };
  const remove = () => {
    const next = Object.keys(looks).find((id) => id !== shown)!;
    edit(looksEdit({ looks: { [shown]: null }, show: next }));
  };
  return (
    <section aria-label={t.looks} className="flex flex-col gap-2 border-b border-rule px-3 py-2">
      <div className="flex items-center gap-2" role="radiogroup" aria-label={t.lookThatIsShown}>
        <div className="flex min-w-0 flex-1 flex-wrap gap-[5px]">
          {Object.entries(looks).map(([id, look]) => (
            <button
              key={id}
              type="button"
              role="radio"
              aria-checked={id === shown}
              className={`cursor-pointer rounded-sm border px-2 py-0.5 ${
                id === shown ? "border-ink bg-ink text-white" : "border-rule-strong bg-sheet hover:bg-white"
              }`}
              onClick={() => id !== shown && edit(looksEdit({ show: id }))}
            >
              {look.name}
            </button>
          ))}
        </div>
        <Button onClick={copy}>{t.copyLook}</Button>
      </div>
      <div className="flex items-center gap-2">
        <NameField
          label={t.nameOfTheLook}
          className="h-7 min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-2"
          value={now.name}
          onCommit={(name) => edit(looksEdit({ looks: { [shown]: { ...now, name } } }))}
        />
        {Object.keys(looks).length > 1 && <Button onClick={remove}>{t.remove}</Button>}
      </div>
      {Object.keys(looks).length > 1 && (
        <Choice
          label={t.compareWith}
          value={beside && looks[beside] && beside !== shown ? beside : ""}
          choices={[
            ["", "nothing"],
            ...Object.entries(looks)
              .filter(([id]) => id !== shown)
              .map(([id, look]): [string, string] => [id, look.name]),
          ]}
          onChange={(id) => useDesk.setState({ beside: id || undefined })}
        />
      )}
    </section>
  );
}
