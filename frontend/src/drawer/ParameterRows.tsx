import { useState } from "react";
import type { OpenPBR } from "../api/client";
import { useDesk } from "../state/deskStore";
import { Amount } from "../ui/Amount";
import { toHex, toLinear } from "../ui/color";
import { Button, Choice, ColorField } from "../ui/controls";
import { LabFields } from "../ui/LabFields";
import * as t from "../words/texts/drawer/ParameterRows";
import { ALL, ALL_PARAMETERS, type Row, SHORT } from "./parameters";

type Params = Required<OpenPBR>;

interface Props {
  p: Params;
  preview: (change: Partial<Params>) => void;
  commit: (change: Partial<Params>) => void;
}

/** A few controls that matter for this kind of surface; all of them on request. */
export function ParameterRows(props: Props) {
  const all = useDesk((state) => state.sections[ALL_PARAMETERS] ?? false);
  const setAll = (open: boolean) =>
    useDesk.setState(({ sections }) => ({ sections: { ...sections, [ALL_PARAMETERS]: open } }));
  const [measured, setMeasured] = useState(false);
  return (
    <>
      {all
        ? ALL.map((group) => (
            <fieldset key={group.name} className="flex flex-col gap-[9px]">
              <legend className="cap mb-1.5">{group.name}</legend>
              {group.rows.map(
                (row) =>
                  (row.when?.(props.p) ?? true) && <Found key={row.name} {...{ row, measured }} {...props} />,
              )}
            </fieldset>
          ))
        : SHORT.map(
            (row) =>
              (row.when?.(props.p) ?? true) && <Found key={row.name} {...{ row, measured }} {...props} />,
          )}
      <div className="flex gap-4">
        <Button look="text" onClick={() => setAll(!all)}>
          {all ? t.fewerParameters : ALL_PARAMETERS}
        </Button>
        <Button look="text" aria-pressed={measured} onClick={() => setMeasured(!measured)}>
          {measured ? t.coloursAsHexOnly : t.coloursAsCielab}
        </Button>
      </div>
    </>
  );
}

/** A control under the name by which the command box finds it. */
function Found(props: Props & { row: Row; measured: boolean }) {
  return (
    <div className="contents" data-parameter={props.row.name}>
      <Control {...props} />
    </div>
  );
}

function Control({ row, p, preview, commit, measured }: Props & { row: Row; measured: boolean }) {
  const value = p[row.name];
  if (row.kind === "color")
    return (
      <div className="flex flex-col gap-1">
        <ColorField
          label={row.label}
          value={toHex(value as [number, number, number])}
          onPreview={(hex) => preview({ [row.name]: toLinear(hex) })}
          onCommit={(hex) => commit({ [row.name]: toLinear(hex) })}
        />
        {measured && (
          <LabFields
            label={row.label}
            linear={value as [number, number, number]}
            onCommit={(linear) => commit({ [row.name]: linear })}
          />
        )}
      </div>
    );
  if (row.kind === "switch")
    return (
      <label className="flex cursor-pointer items-center justify-between">
        <span>{row.label}</span>
        <input
          type="checkbox"
          className="h-4 w-4 cursor-pointer accent-mark"
          checked={value as boolean}
          onChange={(event) => commit({ [row.name]: event.target.checked })}
        />
      </label>
    );
  if (row.kind === "choice")
    return (
      <Choice
        label={row.label}
        value={(value as string | null) ?? ""}
        choices={row.choices!}
        onChange={(name) => commit({ [row.name]: name || null })}
      />
    );
  const { min = 0, max = 1, step = 0.01, digits = 2, unit, scale, unscale } = row;
  return (
    <Amount
      {...{ label: row.label, min, max, step, digits, unit, scale, unscale }}
      topic={row.name}
      value={value as number}
      onPreview={(v) => preview({ [row.name]: v })}
      onCommit={(v) => commit({ [row.name]: v })}
    />
  );
}
