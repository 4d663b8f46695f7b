import { useEffect, useState } from "react";
import type { Standing } from "../api/client";
import { byModel, defaultsFor, modelFiles, together, useSend, useUpload } from "../api/upload";
import { Button } from "../ui/controls";
import { Modal } from "../ui/Modal";
import { SeveralFiles } from "../ui/SeveralFiles";
import * as t from "../words/texts/desk/DropFile";

interface Props {
  reviewId: string;
  standing: Standing;
}

/** A file dropped on the desk: what shall it be? */
export function DropFile({ reviewId, standing }: Props) {
  const [over, setOver] = useState(false);
  const [file, setFile] = useState<File>();
  const [several, setSeveral] = useState<File[]>();
  const send = useSend();
  const upload = useUpload();
  useEffect(() => {
    const isFile = (event: DragEvent) => event.dataTransfer?.types.includes("Files");
    const drag = (event: DragEvent) => {
      if (!isFile(event)) return;
      event.preventDefault();
      setOver(event.type === "dragover");
    };
    const leave = (event: DragEvent) => event.relatedTarget === null && setOver(false);
    const drop = (event: DragEvent) => {
      if (!isFile(event)) return;
      event.preventDefault();
      setOver(false);
      const files = [...(event.dataTransfer?.files ?? [])];
      if (byModel(files).length > 1) setSeveral(files);
      else together(files).then(setFile);
    };
    window.addEventListener("dragover", drag);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", drag);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  const models = Object.entries(standing.scene.models).filter(([, use]) => !use.piece);
  const done = (act: (file: File) => void) => {
    if (file) act(file);
    setFile(undefined);
  };
  const addAll = async (files: File[]) => {
    setSeveral(undefined);
    for (const model of await modelFiles(files)) send(model, { purpose: "add", review_id: reviewId });
  };
  return (
    <>
      <SeveralFiles
        files={several}
        separately={t.furtherModelsInThis}
        onSeparately={addAll}
        onTogether={(files) => {
          setSeveral(undefined);
          together(files).then(setFile);
        }}
        onClose={() => setSeveral(undefined)}
      />
      {over && (
        <div className="pointer-events-none fixed inset-3 z-30 grid place-items-center rounded-md border-2 border-mark border-dashed bg-mark-soft/80 text-[15px] font-semibold text-mark">
          {t.dropARevisionFurther}
        </div>
      )}
      <Modal title={t.is(file?.name ?? "")} open={!!file} onOpen={() => setFile(undefined)} width={380}>
        <div className="flex flex-col gap-2">
          {models.map(([id, use]) => (
            <Button
              key={id}
              onClick={() => done((f) => send(f, { purpose: "replace", review_id: reviewId, model: id }))}
            >
              {t.theNextRevisionOf(use.name)}
            </Button>
          ))}
          <Button onClick={() => done((f) => send(f, { purpose: "add", review_id: reviewId }))}>
            {t.aFurtherModelIn}
          </Button>
          <Button onClick={() => done((f) => upload.start(f, defaultsFor(f.name)))}>{t.aReviewOfIts}</Button>
        </div>
      </Modal>
    </>
  );
}
