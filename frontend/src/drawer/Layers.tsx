import type { Edit, Model, Standing } from "../api/client";
import { useDesk } from "../state/deskStore";
import { Button } from "../ui/controls";
import { Swatch } from "../ui/Swatch";
import * as t from "../words/texts/drawer/Layers";

interface Props {
  model: Model;
  standing: Standing;
  uids: string[];
  edit: (change: Edit) => void;
}

type Layer = NonNullable<Standing["worn"][string]["layers"]>[number];

/** Why a part looks as it does: what was given to it at which level, what lies beneath, and how to lift it. */
export function Layers({ model, standing, uids, edit }: Props) {
  const faces = useDesk((state) => state.faces);
  const first = uids.length === 1 ? standing.worn[uids[0]!] : undefined;
  if (!first) return null;
  const look = standing.scene.look;
  const nodes = new Map(model.nodes.map((node) => [node.uid, node]));
  const wordsOf = (layer: Layer) => {
    switch (layer.why) {
      case "part":
        return t.givenToThisPart;
      case "same part":
        return t.givenToAllSame;
      case "rule":
        return t.byARule;
      case "sub-assembly":
        return t.on(nodes.get(layer.key)?.name ?? t.theSubAssembly);
      case "model":
        return t.onTheWholeModel;
      case "face":
        return t.givenToThisFace;
      default:
        return layer.why;
    }
  };
  const lift = (layer: Layer) =>
    layer.why === "rule"
      ? useDesk.setState({ sheet: "appearances" })
      : edit({ kind: "assign", look, assignments: { [layer.key]: null }, define: {} });
  const rows = first.layers.map((layer, place) => ({
    layer,
    id: `${place}`,
    title: undefined,
    top: place === 0,
  }));
  const own = Object.entries(first.own_faces)
    .filter(([index]) => faces.length === 0 || faces.some((one) => one.face === Number(index)))
    .map(([index, layer]) => ({ layer, id: `face ${index}`, title: t.face(Number(index) + 1), top: true }));
  if (rows.length < 2 && own.length === 0) return null;
  return (
    <ol aria-label={t.whyItLooksLike} className="flex flex-col gap-1 border-y border-rule py-2">
      {[...own, ...rows].map(({ layer, id, title, top }) => (
        <li key={id} className={`flex min-w-0 items-center text-[12px] ${top ? "" : "text-ink-2"}`}>
          <Swatch appearance={standing.appearances[layer.appearance]} nothing={layer.why === "nothing yet"} />
          <span className="min-w-0 flex-1 truncate">
            {title && <b className="font-semibold">{title}: </b>}
            {standing.appearances[layer.appearance]?.name ?? t.nothing}{" "}
            <span className="why">{wordsOf(layer)}</span>
          </span>
          {layer.key && (
            <Button look="text" className="shrink-0" onClick={() => lift(layer)}>
              {layer.why === "rule" ? t.rules : t.lift}
            </Button>
          )}
        </li>
      ))}
    </ol>
  );
}
