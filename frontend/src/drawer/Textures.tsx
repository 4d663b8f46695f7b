import { X } from "lucide-react";
import { keepPicture, useMadePictures } from "../api/appearance";
import type { Appearance } from "../api/client";
import { toast } from "../api/toast";
import { Choice, IconButton, LENGTH, NumberField } from "../ui/controls";
import { FileButton } from "../ui/FileButton";
import * as t from "../words/texts/drawer/Textures";
import { Section } from "./model/Section";

type Texture = NonNullable<Appearance["textures"]>[number];

interface Props {
  appearance: Appearance;
  commit: (textures: Texture[]) => void;
}

const TARGETS: [Texture["target"], string][] = [
  ["color", "colour"],
  ["roughness", "roughness"],
  ["bump", "height"],
  ["normal", "normal"],
  ["opacity", "opacity"],
];
const RUNS: [NonNullable<Texture["mapping"]>, string][] = [
  ["surface", t.asItIsLaid],
  ["machined", t.roundTurnedParts],
];
const MOST = 6;
const SHAPING: Texture["target"][] = ["bump", "normal"];
/** Flakes may say in their name what share of the paint they cover. */
const FLAKES = /^made:flakes(?: (\d+))?$/;

/** Pictures of an appearance at their real size: how wide a repeat is, where it lies, how it is turned. */
export function Textures({ appearance, commit }: Props) {
  const made = useMadePictures().data ?? [];
  const textures = appearance.textures ?? [];
  const coated = (appearance.params?.coat_weight ?? 0) > 0;
  const inMm = textures[0]?.mapping !== "file";
  const unit = inMm ? LENGTH : "";
  const change = (index: number, values: Partial<Texture>) =>
    commit(textures.map((texture, place) => (place === index ? { ...texture, ...values } : texture)));
  const add = (texture: Pick<Texture, "picture" | "target" | "width" | "height" | "strength">) =>
    commit([
      ...textures,
      { mapping: inMm ? "surface" : "file", offset: [0, 0], turn: 0, beneath_coat: false, ...texture },
    ]);
  const upload = async (file: File) => {
    try {
      const kept = await keepPicture(file);
      add({
        picture: kept.picture,
        target: "color",
        width: inMm ? 100 : 1,
        height: inMm ? (100 * kept.height) / kept.width : 1,
        strength: 1,
      });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const madeOf = (picture: string) => made.find((one) => one.name === picture.replace(FLAKES, "made:flakes"));
  const labelOf = (picture: string) => madeOf(picture)?.label ?? t.pictureFromAFile;
  return (
    <Section title={t.pictures} fact={textures.length ? `${textures.length}` : t.none}>
      {textures.map((texture, index) => {
        const { width = 1, height = 1, turn = 0, strength = 1 } = texture;
        const [x, y] = texture.offset ?? [0, 0];
        const flakes = madeOf(texture.picture);
        const across = flakes?.flake ? flakes.width / flakes.flake : undefined;
        return (
          <fieldset
            // biome-ignore lint/suspicious/noArrayIndexKey: a texture has no name but its place
            key={index}
            aria-label={labelOf(texture.picture)}
            className="grid grid-cols-2 gap-x-3 gap-y-1.5 rounded-sm border border-rule bg-white p-2"
          >
            <div className="col-span-2 flex items-center">
              <b className="flex-1 truncate font-semibold">{labelOf(texture.picture)}</b>
              <IconButton
                label={t.takeThisPictureOff}
                onClick={() => commit(textures.filter((_, place) => place !== index))}
              >
                <X size={13} />
              </IconButton>
            </div>
            <div className="col-span-2">
              <Choice
                label={t.drives}
                value={texture.target}
                choices={TARGETS}
                onChange={(target) => change(index, { target: target as Texture["target"] })}
              />
            </div>
            {flakes && across && (
              <>
                <Labelled
                  label={t.flakeSize}
                  digits={3}
                  {...{ unit, value: width / across }}
                  onCommit={(next) => {
                    const side = across * Math.min(20, Math.max(0.01, next));
                    change(index, { width: side, height: side });
                  }}
                />
                <Labelled
                  label={t.flakesCover}
                  unit="%"
                  digits={0}
                  value={Number(FLAKES.exec(texture.picture)?.[1] ?? flakes.cover)}
                  onCommit={(next) =>
                    change(index, {
                      picture: `made:flakes ${Math.min(99, Math.max(1, Math.round(next)))}`,
                    })
                  }
                />
              </>
            )}
            {inMm && (
              <div className="col-span-2">
                <Choice
                  label={t.runs}
                  value={texture.mapping ?? "surface"}
                  choices={RUNS}
                  onChange={(mapping) => change(index, { mapping: mapping as Texture["mapping"] })}
                />
              </div>
            )}
            <Size
              label={t.width}
              {...{ unit, value: width }}
              onCommit={(next) => change(index, { width: next, height: (height * next) / width })}
            />
            <Size
              label={t.heightAlone}
              {...{ unit, value: height }}
              onCommit={(next) => change(index, { height: next })}
            />
            <Labelled
              label={t.along}
              {...{ unit, value: x }}
              onCommit={(next) => change(index, { offset: [next, y] })}
            />
            <Labelled
              label={t.across}
              {...{ unit, value: y }}
              onCommit={(next) => change(index, { offset: [x, next] })}
            />
            <Labelled
              label={t.turned}
              unit="°"
              digits={0}
              value={turn}
              onCommit={(next) => change(index, { turn: next })}
            />
            <Labelled
              label={texture.target === "bump" ? t.depth : t.share}
              unit={texture.target === "bump" ? LENGTH : ""}
              digits={3}
              value={strength}
              onCommit={(next) => change(index, { strength: next })}
            />
            {coated && SHAPING.includes(texture.target) && (
              <label className="col-span-2 flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={texture.beneath_coat ?? false}
                  onChange={(event) => change(index, { beneath_coat: event.target.checked })}
                />
                {t.beneathTheClearCoat}
              </label>
            )}
          </fieldset>
        );
      })}
      {textures.length < MOST && (
        <div className="flex items-center gap-2">
          <select
            aria-label={t.addABuiltIn}
            className="h-7 min-w-0 flex-1 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
            value=""
            onChange={(event) => {
              const one = made.find((picture) => picture.name === event.target.value);
              if (!one) return;
              const target = targetOf(one.label);
              add({
                picture: one.name,
                target,
                width: inMm ? one.width : 1,
                height: inMm ? one.height : 1,
                strength: target === "bump" ? 0.02 : 1,
              });
            }}
          >
            <option value="">{t.addABuiltInTexture}</option>
            {made.map((one) => (
              <option key={one.name} value={one.name}>
                {one.label}
              </option>
            ))}
          </select>
          <FileButton
            label={t.pictureFile}
            accept="image/png,image/jpeg,image/tiff,image/webp,.exr"
            onFile={upload}
          >
            {t.fromAFile}
          </FileButton>
        </div>
      )}
      <p className="why">{inMm ? t.sizesAreRealIn : t.thisPictureLiesWhere}</p>
    </Section>
  );
}

/** The label of a made picture says what it is for. */
function targetOf(label: string): Texture["target"] {
  if (label.includes("height")) return "bump";
  if (label.includes("normals")) return "normal";
  return label.includes("opacity") ? "opacity" : "color";
}

interface FieldProps {
  label: string;
  unit: string;
  value: number;
  digits?: number;
  onCommit: (value: number) => void;
}

function Labelled({ label, unit, value, digits = 1, onCommit }: FieldProps) {
  return (
    <div>
      <span className="why">{label}</span>
      <NumberField {...{ label, unit, value, digits, onCommit }} />
    </div>
  );
}

function Size(props: FieldProps) {
  return <Labelled {...props} onCommit={(next) => props.onCommit(Math.min(1e5, Math.max(0.01, next)))} />;
}
