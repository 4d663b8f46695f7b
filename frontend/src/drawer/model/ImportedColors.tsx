import { useState } from "react";
import { type ImportedColor, useImported } from "../../api/assembly";
import type { Appearance, Edit, Sample, Standing } from "../../api/client";
import { useShelf } from "../../api/queries";
import { useDesk } from "../../state/deskStore";
import { Button, NumberField } from "../../ui/controls";
import { Modal } from "../../ui/Modal";
import { Swatch } from "../../ui/Swatch";
import * as t from "../../words/texts/drawer/model/ImportedColors";
import { Section } from "./Section";

interface Props {
  reviewId: string;
  standing: Standing;
  edit: (change: Edit) => void;
}

type StandIns = Record<string, string | null>;

/** The colours that CAD gave: how many there are, and the table in which they are cut down. */
export function ImportedColors({ reviewId, standing, edit }: Props) {
  const [open, setOpen] = useState(false);
  const [threshold, setThreshold] = useState(4);
  const found = useImported(reviewId, standing.seq, threshold).data;
  const colors = found?.colors ?? [];
  const settled = colors.filter((row) => row.stands_in || row.stripped).length;
  const fact = colors.length ? t.mapped(colors.length, settled) : t.noneInTheFile;
  return (
    <Section title={t.cadColours} fact={fact}>
      <p className="why">{t.giveEachAnAppearance}</p>
      <Button disabled={colors.length === 0} className="self-start" onClick={() => setOpen(true)}>
        {t.openTheTable}
      </Button>
      <Modal title={t.cadColours} open={open} onOpen={setOpen} width={900}>
        <Table
          {...{ standing, edit, colors, threshold }}
          alike={found?.alike ?? []}
          onThreshold={setThreshold}
          onShow={() => setOpen(false)}
        />
      </Modal>
    </Section>
  );
}

interface TableProps {
  standing: Standing;
  edit: (change: Edit) => void;
  colors: ImportedColor[];
  alike: string[][];
  threshold: number;
  onThreshold: (value: number) => void;
  onShow: () => void;
}

function Table({ standing, edit, colors, alike, threshold, onThreshold, onShow }: TableProps) {
  const shelf = useShelf().data?.samples ?? [];
  const samples = new Map(shelf.map((sample) => [sample.appearance.id, sample]));
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const now: StandIns = standing.scene.imported;
  const set = (
    change: Record<string, string | null | undefined>,
    define: Record<string, Appearance> = {},
  ) => {
    const imported: StandIns = { ...now };
    for (const [id, value] of Object.entries(change)) {
      if (value === undefined) delete imported[id];
      else imported[id] = value;
    }
    for (const value of Object.values(imported)) {
      const sample = value && samples.get(value);
      if (sample && !standing.scene.appearances?.[value]) define[value] = sample.appearance;
    }
    edit({ kind: "set_imported", imported, stripped: standing.scene.stripped, define });
  };
  const each = (rows: ImportedColor[], value: (row: ImportedColor) => string | null | undefined) =>
    set(Object.fromEntries(rows.map((row) => [row.id, value(row)])));
  const suggested = colors.filter((row) => row.suggestion && !row.stands_in && !row.stripped);
  const merged = alike.reduce((sum, group) => sum + group.length - 1, 0);
  const merge = () => {
    const change: Record<string, string> = {};
    const define: Record<string, Appearance> = {};
    for (const group of alike) {
      const first = colors.find((row) => row.id === group[0])!;
      const target = `own-${first.id}`;
      define[target] = named(first, first.name || t.cadColour);
      for (const id of group) change[id] = target;
    }
    set(change, define);
  };
  const chosen = colors.filter((row) => marked.has(row.id));
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <Button
          look="mark"
          disabled={suggested.length === 0}
          onClick={() =>
            set(
              Object.fromEntries(suggested.map((row) => [row.id, row.suggestion!.id])),
              Object.fromEntries(suggested.map((row) => [row.suggestion!.id, row.suggestion!])),
            )
          }
        >
          {t.takeAllSuggestions(suggested.length)}
        </Button>
        <span className="flex items-center gap-2">
          <Button look="mark" disabled={merged === 0} onClick={merge}>
            {t.mergeSimilar(merged)}
          </Button>
          <span className="why">{t.within}</span>
          <span className="w-14">
            <NumberField
              label={t.differenceCiede2000}
              value={threshold}
              digits={1}
              onCommit={(value) => onThreshold(Math.min(40, Math.max(0, value)))}
            />
          </span>
          <span className="why">{t.ciede2000}</span>
        </span>
        <span className="flex-1" />
        <Button onClick={() => each(colors, () => null)}>{t.ignoreAllCadColours}</Button>
        <Button disabled={Object.keys(now).length === 0} onClick={() => each(colors, () => undefined)}>
          {t.keepAllCadColours}
        </Button>
      </div>
      {chosen.length > 0 && (
        <div className="flex items-center gap-2 rounded-sm bg-mark-soft px-2.5 py-1.5">
          <b className="figures">{chosen.length}</b> {t.selected}
          <StandIn
            value=""
            samples={shelf}
            own={standing}
            label={t.replacementForAllSelected}
            onChange={(id) => each(chosen, () => id)}
          />
          <Button look="mark" onClick={() => each(chosen, () => null)}>
            {t.ignoreCadColour}
          </Button>
        </div>
      )}
      <div className="min-h-0 overflow-y-auto border border-rule bg-white">
        <table className="w-full text-left">
          <thead className="cap sticky top-0 bg-sheet">
            <tr>
              <th className="w-8 py-2 pl-2.5" />
              <th>{t.colour}</th>
              <th>{t.materialInFile}</th>
              <th className="text-right">{t.parts}</th>
              <th className="pl-4">{t.replaceWith}</th>
              <th className="pl-4">{t.suggested}</th>
            </tr>
          </thead>
          <tbody>
            {colors.map((row) => (
              <ColorRow
                key={row.id}
                {...{ row, shelf, standing }}
                marked={marked.has(row.id)}
                onMark={(on) =>
                  setMarked(new Set(on ? [...marked, row.id] : [...marked].filter((id) => id !== row.id)))
                }
                onSet={(value, define) => set({ [row.id]: value }, define)}
                onName={(name) =>
                  row.stands_in && standing.scene.appearances?.[row.stands_in]
                    ? edit({
                        kind: "change_appearance",
                        appearance: { ...standing.scene.appearances[row.stands_in]!, name },
                      })
                    : set({ [row.id]: `own-${row.id}` }, { [`own-${row.id}`]: named(row, name) })
                }
                onShow={() => {
                  useDesk.setState({ chosen: new Set(row.uids) });
                  onShow();
                }}
              />
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** A CAD colour as an appearance of the review's own, so that it can be named and changed. */
function named(row: ImportedColor, name: string): Appearance {
  return { ...row.appearance, id: `own-${row.id}`, name, family: "plastic" };
}

interface RowProps {
  row: ImportedColor;
  shelf: Sample[];
  standing: Standing;
  marked: boolean;
  onMark: (on: boolean) => void;
  onSet: (value: string | null | undefined, define?: Record<string, Appearance>) => void;
  onName: (name: string) => void;
  onShow: () => void;
}

function ColorRow({ row, shelf, standing, marked, onMark, onSet, onName, onShow }: RowProps) {
  const { suggestion } = row;
  const worn = row.stands_in ? standing.scene.appearances?.[row.stands_in] : undefined;
  const [draft, setDraft] = useState<string>();
  return (
    <tr className={`border-t border-row ${marked ? "bg-mark-soft" : ""}`}>
      <td className="pl-2.5">
        <input
          type="checkbox"
          className="accent-ink"
          aria-label={t.select(row.name || row.id)}
          checked={marked}
          onChange={(event) => onMark(event.target.checked)}
        />
      </td>
      <td className="py-1 whitespace-nowrap">
        <Swatch appearance={row.appearance} />
        <input
          aria-label={t.name}
          className="w-32 bg-transparent"
          placeholder={t.name2}
          maxLength={80}
          value={draft ?? worn?.name ?? ""}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={() => {
            if (draft?.trim() && draft !== worn?.name) onName(draft.trim());
            setDraft(undefined);
          }}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") event.currentTarget.blur();
          }}
        />
      </td>
      <td className="why max-w-44 truncate">{row.name}</td>
      <td className="figures text-right">
        <button
          type="button"
          className="cursor-pointer hover:text-mark"
          title={t.selectTheseParts}
          onClick={onShow}
        >
          {row.uids.length}
          {row.faces > 0 && t.faces(row.faces)}
        </button>
        {row.covered > 0 && <span className="why ml-1">{t.givenByHand(row.covered)}</span>}
      </td>
      <td className="pl-4">
        <StandIn
          label={t.inPlaceOf(row.name || row.id)}
          value={row.stripped ? "nothing" : (row.stands_in ?? "")}
          samples={shelf}
          own={standing}
          onChange={onSet}
        />
      </td>
      <td className="pl-4">
        {suggestion && row.stands_in !== suggestion.id && (
          <Button look="text" onClick={() => onSet(suggestion.id, { [suggestion.id]: suggestion })}>
            {suggestion.name}
          </Button>
        )}
      </td>
    </tr>
  );
}

interface StandInProps {
  label: string;
  value: string;
  samples: Sample[];
  own: Standing;
  onChange: (value: string | null | undefined) => void;
}

function StandIn({ label, value, samples, own, onChange }: StandInProps) {
  const others = Object.values(own.scene.appearances).filter(
    (appearance) => !samples.some((sample) => sample.appearance.id === appearance.id),
  );
  return (
    <select
      aria-label={label}
      className="h-7 w-40 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5"
      value={value}
      onChange={(event) => {
        const id = event.target.value;
        onChange(id === "" ? undefined : id === "nothing" ? null : id);
      }}
    >
      <option value="">{t.keep}</option>
      <option value="nothing">{t.ignoreTheCadColour}</option>
      {others.length > 0 && (
        <optgroup label={t.inThisReview}>
          {others.map((appearance) => (
            <option key={appearance.id} value={appearance.id}>
              {appearance.name}
            </option>
          ))}
        </optgroup>
      )}
      <optgroup label={t.shelf}>
        {samples.map(({ appearance }) => (
          <option key={appearance.id} value={appearance.id}>
            {appearance.name}
          </option>
        ))}
      </optgroup>
    </select>
  );
}
