import { useEffect, useState } from "react";
import type { Drawing } from "../api/client";
import { keepFont } from "../api/decals";
import { FONTS } from "../api/generated/facts";
import { toast } from "../api/toast";
import { Check, Choice, ColorField, LENGTH, NumberField } from "../ui/controls";
import { FileButton } from "../ui/FileButton";
import * as t from "../words/texts/drawer/DrawingFields";

export const KINDS: Record<Drawing["kind"], string> = {
  text: t.text,
  arrow: t.arrow,
  "turning arrow": t.turningArrow,
  "scale arc": t.scaleOnAnArc,
  "scale line": t.scaleOnALine,
  warning: t.warningTriangle,
  voltage: t.warningOfVoltage,
  qr: t.qrCode,
  code128: t.barCodeCode128,
};

/** Numbers of a drawing: field, words, unit, digits. */
const NUMBERS: Record<string, [string, string, number]> = {
  cap_height: [t.capitals, LENGTH, 2],
  line: [t.line, "", 2],
  spacing: [t.letterSpacing, "", 2],
  module: [t.module, LENGTH, 2],
  height: [t.bars, LENGTH, 1],
  size: [t.size, LENGTH, 1],
  sweep: [t.sweep, "°", 0],
  first: [t.fromWord, "", 2],
  last: [t.to, "", 2],
  step: [t.step, "", 2],
  long_every: [t.longTickEvery, "", 0],
  length: [t.length, LENGTH, 1],
  radius: [t.radius, LENGTH, 1],
  tick: [t.longTick, LENGTH, 2],
};
/** What a kind does not use of its fields. */
const UNUSED: Partial<Record<Drawing["kind"], string[]>> = {
  qr: ["height"],
  arrow: ["sweep"],
  warning: ["sweep", "line", "color"],
  voltage: ["sweep", "line", "color"],
  "scale line": ["radius", "sweep"],
  "scale arc": ["length"],
};

interface Props {
  drawing: Drawing;
  onChange: (drawing: Drawing) => void;
}

/** What is drawn: its text, numbers, font and colour. */
export function DrawingFields({ drawing, onChange }: Props) {
  const values = drawing as unknown as Record<string, string | number | boolean | null>;
  const set = (change: Record<string, unknown>) => onChange({ ...drawing, ...change } as Drawing);
  const unused = UNUSED[drawing.kind] ?? [];
  const numbers = Object.keys(values).filter((name) => NUMBERS[name] && !unused.includes(name));
  const takeFont = async (file: File) => {
    try {
      set({ font: (await keepFont(file)).font });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <fieldset className="flex flex-col gap-[7px] border border-rule bg-white p-2">
      <legend className="cap px-1">{KINDS[drawing.kind]}</legend>
      {"text" in drawing && (
        <Words value={drawing.text} many={drawing.kind === "text"} onCommit={(text) => set({ text })} />
      )}
      {"font" in drawing && (
        <>
          <Choice
            label={t.font}
            value={drawing.font}
            choices={[
              ...Object.entries(FONTS),
              ...(drawing.font in FONTS ? [] : ([[drawing.font, t.ofYourOwn]] as [string, string][])),
            ]}
            onChange={(font) => set({ font })}
          />
          <FileButton label={t.fontFile} accept=".ttf,.otf" onFile={takeFont}>
            {t.fontFromAFile}
          </FileButton>
        </>
      )}
      {"align" in drawing && (
        <Choice
          label={t.alignment}
          value={drawing.align}
          choices={["left", "center", "right"].map((name) => [name, name])}
          onChange={(align) => set({ align })}
        />
      )}
      {numbers.map((name) => {
        const [label, unit, digits] = NUMBERS[name]!;
        return (
          <div key={name} className="flex items-center justify-between">
            <span>{label}</span>
            <span className="w-[90px]">
              <NumberField
                label={label}
                value={values[name] as number}
                digits={digits}
                unit={unit}
                onCommit={(value) => set({ [name]: value })}
              />
            </span>
          </div>
        );
      })}
      {"numbers" in drawing && (
        <Check
          label={t.numbersAtLongTicks}
          checked={drawing.numbers}
          onChange={(checked) => set({ numbers: checked })}
        />
      )}
      {!unused.includes("color") && (
        <ColorField label={t.colour} value={drawing.color} onCommit={(color) => set({ color })} />
      )}
      {"behind" in drawing && (
        <Check
          label={t.onWhite}
          checked={drawing.behind !== null}
          onChange={(checked) => set({ behind: checked ? "#FFFFFF" : null })}
        />
      )}
    </fieldset>
  );
}

function Words({
  value,
  many,
  onCommit,
}: {
  value: string;
  many: boolean;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = () => {
    if (text.trim() && text !== value) onCommit(text);
    else setText(value);
  };
  return (
    <textarea
      aria-label={t.textOfTheDecal}
      rows={many ? 2 : 1}
      maxLength={many ? 500 : 300}
      className="w-full resize-y rounded-md border border-rule-strong px-1.5 py-1"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter" && !(many && event.shiftKey)) event.currentTarget.blur();
        if (event.key === "Escape") setText(value);
        event.stopPropagation();
      }}
    />
  );
}
