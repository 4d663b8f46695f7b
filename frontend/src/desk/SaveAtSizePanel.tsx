import { useState } from "react";
import type { Shot } from "../api/client";
import { actions, useAct } from "../api/queries";
import { toast } from "../api/toast";
import { cameraOf } from "../state/camera";
import { useDesk } from "../state/deskStore";
import { Button, Check, Choice } from "../ui/controls";
import type { PictureForm } from "../viewport/canvasFile";
import { percent } from "../words/numbers";
import * as t from "../words/texts/desk/SaveAtSizePanel";

interface Props {
  reviewId: string;
  name: string;
  shotId: string;
  shot: Shot;
  onClose: () => void;
}

const FORMS: [PictureForm, string][] = [
  ["png", t.png],
  ["jpeg", t.jpeg],
  ["webp", t.webp],
];

/** Noise that a picture is traced to at most; less where the desk has less. */
const MOST = 0.1;

/** Saves the view on the desk at the full size of its shot: traced on in the background, and saved when that is done. */
export function SaveAtSizePanel({ reviewId, name, shotId, shot, onClose }: Props) {
  const [form, setForm] = useState<PictureForm>("png");
  const [kept, setKept] = useState(true);
  const grain = Math.min(useDesk((state) => state.frame?.grain) ?? MOST, MOST);
  const act = useAct(["stills", reviewId]);
  const { width = 1280, height = 960 } = shot;
  const save = async () => {
    onClose();
    const view = useDesk.getState().view;
    try {
      await act(async () => {
        const { id } = await actions.take(reviewId, {
          shot: shotId,
          quality: "fair",
          width,
          height,
          grain,
          minutes: null,
          look: null,
          lighting: null,
          crop: null,
          camera: view ? cameraOf(view) : null,
          by_kind: false,
        });
        useDesk.setState(({ saves }) => ({
          saves: { ...saves, [id]: { form, kept, name: t.fileName(name, shot.name) } },
        }));
      });
      toast(t.tracingItIsSaved(width, height));
    } catch {
      // useAct has said why
    }
  };
  return (
    <>
      <p className="why">{t.tracedOnInThe(percent(grain, 1))}</p>
      <Choice
        label={t.format}
        value={form}
        choices={FORMS}
        onChange={(next) => setForm(next as PictureForm)}
      />
      <Check label={t.keepItAmongThe} checked={kept} onChange={setKept} />
      <Button look="ink" onClick={save}>
        {t.saveX(width, height)}
      </Button>
    </>
  );
}
