import { useState } from "react";
import { keepPicture } from "../api/appearance";
import type { Decal, Drawing, Edit, Model, Standing } from "../api/client";
import { DRAWINGS } from "../api/generated/facts";
import { toast } from "../api/toast";
import { useDesk } from "../state/deskStore";
import { Button, NumberField } from "../ui/controls";
import { FileButton } from "../ui/FileButton";
import { oneTabStop } from "../ui/oneTabStop";
import { length } from "../words/length";
import * as t from "../words/texts/drawer/Decals";
import { KINDS } from "./DrawingFields";
import { OneDecal } from "./OneDecal";

interface Props {
  reviewId: string;
  model: Model;
  standing: Standing;
  uids: string[];
  edit: (change: Edit) => void;
}

/** Decals on what is chosen, and another from a picture file. */
export function Decals({ reviewId, model, standing, uids, edit }: Props) {
  const mine = new Set(uids);
  const open = useDesk((state) => state.decal);
  const decals = Object.entries(standing.scene.decals).filter(([, decal]) => mine.has(decal.part));
  const [pdf, setPdf] = useState<{ file: File; page: number; pages: number }>();
  const isLaying = useDesk((state) => state.pointing === "decal");
  const take = async (file: File, page = 1) => {
    try {
      const { picture, width, height, pages } = await keepPicture(file, page);
      setPdf(pages > 1 ? { file, page, pages } : undefined);
      const name = file.name.replace(/\.[^.]*$/, "") || t.decal;
      useDesk.setState({ pointing: "decal", decalInHand: { name, picture, aspect: width / height } });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const begin = (kind: Drawing["kind"]) =>
    useDesk.setState({
      pointing: "decal",
      decalInHand: { name: KINDS[kind], drawing: DRAWINGS[kind] as Drawing },
    });
  return (
    <section aria-label={t.decals} className="flex flex-col gap-2">
      <div className="flex items-center justify-between">
        <span className="cap">{t.decals}</span>
        <FileButton label={t.decalFile} accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.svg,.pdf" onFile={take}>
          {t.fromAFile}
        </FileButton>
      </div>
      {pdf && isLaying && (
        <div className="flex items-center justify-between">
          <span>{t.pageOf(pdf.pages)}</span>
          <span className="w-[60px]">
            <NumberField
              label={t.page}
              value={pdf.page}
              onCommit={(page) => take(pdf.file, Math.min(pdf.pages, Math.max(1, Math.round(page))))}
            />
          </span>
        </div>
      )}
      <select
        aria-label={t.drawADecal}
        className="h-7 cursor-pointer rounded-md border border-rule-strong bg-white px-1.5 text-mark"
        value=""
        onChange={(event) => begin(event.target.value as Drawing["kind"])}
      >
        <option value="" disabled>
          {t.drawOne}
        </option>
        {Object.entries(KINDS).map(([kind, words]) => (
          <option key={kind} value={kind}>
            {words}
          </option>
        ))}
      </select>
      {decals.length === 0 && <p className="why">{t.aLabelLogoOr}</p>}
      {decals.map(([id, decal]) =>
        id === open || decals.length === 1 ? (
          <OneDecal key={id} {...{ reviewId, id, decal, model, standing, edit }} />
        ) : (
          <ClosedDecal key={id} {...{ id, decal, edit }} />
        ),
      )}
    </section>
  );
}

/** A decal beside others: its name, which opens it. */
function ClosedDecal({ id, decal, edit }: { id: string; decal: Decal; edit: Props["edit"] }) {
  return (
    <div className="flex items-center gap-1.5 border-t border-rule pt-2">
      <input
        type="checkbox"
        aria-label={t.show(decal.name)}
        checked={decal.on}
        onChange={(event) =>
          edit({ kind: "set_decals", decals: { [id]: { ...decal, on: event.target.checked } } })
        }
      />
      <button
        type="button"
        aria-expanded={false}
        className="flex min-h-7 min-w-0 flex-1 cursor-pointer items-center justify-between gap-2 text-left font-semibold"
        onClick={() => useDesk.setState({ decal: id })}
      >
        <span className="truncate">{decal.name}</span>
        <span className="why whitespace-nowrap">
          {length(decal.width)} x {length(decal.height)}
        </span>
      </button>
    </div>
  );
}

/** All decals of the review; those whose part is gone wait here. */
export function AllDecals({ model, standing, edit }: Omit<Props, "reviewId" | "uids">) {
  const decals = Object.entries(standing.scene.decals);
  const choose = useDesk((state) => state.choose);
  if (decals.length === 0) return null;
  const nameOf = (uid: string) => model.nodes.find((node) => node.uid === uid)?.name;
  return (
    <section ref={oneTabStop} aria-label={t.allDecals} className="flex flex-col gap-1">
      <span className="cap">{t.decals2(decals.length)}</span>
      {decals.map(([id, decal]) => {
        const part = nameOf(decal.part);
        return (
          <div key={id} data-row={decal.name} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate">
              {decal.name}{" "}
              <span className="why">
                {!part ? t.waitsItsPartIs : decal.waits ? t.waitsItsFaceOn(part) : t.on(part)}
              </span>
            </span>
            {part && !decal.waits ? (
              <Button
                onClick={() => {
                  choose([decal.part]);
                  useDesk.setState({ decal: id });
                }}
              >
                {t.show2}
              </Button>
            ) : (
              <Button
                onClick={() =>
                  useDesk.setState({
                    pointing: "decal",
                    decalInHand: {
                      name: decal.name,
                      picture: decal.picture,
                      aspect: decal.width / decal.height,
                      id,
                    },
                  })
                }
              >
                {t.putOnAgain}
              </Button>
            )}
            <Button onClick={() => edit({ kind: "set_decals", decals: { [id]: null } })}>{t.remove}</Button>
          </div>
        );
      })}
    </section>
  );
}
