import { useEffect, useState } from "react";
import type { Drawing } from "../api/client";
import { keepFont } from "../api/decals";
import { FONTS } from "../api/generated/facts";
import { toast } from "../api/toast";
import { Check, Choice, ColorField, LENGTH, NumberField } from "../ui/controls";
import { FileButton } from "../ui/FileButton";

export const KINDS: Record<Drawing["kind"], string> = {
  text: "Text",
  arrow: "Arrow",
  "turning arrow": "Turning arrow",
  "scale arc": "Scale on an arc",
  "scale line": "Scale on a line",
  warning: "Warning triangle",
  voltage: "Warning of voltage",
  qr: "QR code",
  code128: "Bar code, Code 128",
};

/** Numbers of a drawing: field, words, unit, digits. */
const NUMBERS: Record<string, [string, string, number]> = {
  cap_height: ["Capitals", LENGTH, 2],
  line: ["Line", "", 2],
  spacing: ["Letter spacing", "", 2],
  module: ["Module", LENGTH, 2],
  height: ["Bars", LENGTH, 1],
  size: ["Size", LENGTH, 1],
  sweep: ["Sweep", "°", 0],
  first: ["From", "", 2],
  last: ["To", "", 2],
  step: ["Step", "", 2],
  long_every: ["Long tick every", "", 0],
  length: ["Length", LENGTH, 1],
  radius: ["Radius", LENGTH, 1],
  tick: ["Long tick", LENGTH, 2],
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
            label="Font"
            value={drawing.font}
            choices={[
              ...Object.entries(FONTS),
              ...(drawing.font in FONTS ? [] : ([[drawing.font, "of your own"]] as [string, string][])),
            ]}
            onChange={(font) => set({ font })}
          />
          <FileButton label="Font file" accept=".ttf,.otf" onFile={takeFont}>
            Font from a file…
          </FileButton>
        </>
      )}
      {"align" in drawing && (
        <Choice
          label="Alignment"
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
          label="Numbers at long ticks"
          checked={drawing.numbers}
          onChange={(checked) => set({ numbers: checked })}
        />
      )}
      {!unused.includes("color") && (
        <ColorField label="Colour" value={drawing.color} onCommit={(color) => set({ color })} />
      )}
      {"behind" in drawing && (
        <Check
          label="On white"
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
      aria-label="Text of the decal"
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
