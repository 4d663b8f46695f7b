import { byModel } from "../api/upload";
import * as t from "../words/texts/ui/SeveralFiles";
import { Button } from "./controls";
import { Modal } from "./Modal";

interface Props {
  files?: File[];
  /** What they become if each is a model: "further models in this review". */
  separately: string;
  onSeparately: (files: File[]) => void;
  onTogether: (files: File[]) => void;
  onClose: () => void;
}

/** Several CAD files at once: models of their own, or one whose files belong together? */
export function SeveralFiles({ files, separately, onSeparately, onTogether, onClose }: Props) {
  const count = files ? byModel(files).length : 0;
  return (
    <Modal title={t.theseFilesAre(count)} open={!!files} onOpen={onClose} width={380}>
      <div className="flex flex-col gap-2">
        <Button look="mark" onClick={() => files && onSeparately(files)}>
          {count} {separately}
        </Button>
        <Button onClick={() => files && onTogether(files)}>{t.oneModelItsFiles}</Button>
      </div>
      <p className="why">{files?.map((file) => file.name).join(", ")}</p>
    </Modal>
  );
}
