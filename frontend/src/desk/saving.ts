import type { StillLine } from "../api/client";
import { actions } from "../api/queries";
import { fileOf } from "../api/stills";
import { type Save, useDesk } from "../state/deskStore";
import type { PictureForm } from "../viewport/canvasFile";

/** Saves a picture as a file; the browser asks where, or puts it among its downloads. */
export function saveFile(picture: Blob, name: string, form: PictureForm) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(picture);
  link.download = `${name}.${form === "jpeg" ? "jpg" : form}`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Saves a finished still as was asked. One that is not kept leaves the list once its file is here. Throws where it cannot
 * be fetched; it stays among the stills then. */
export async function saveFinished(still: StillLine, wish: Save) {
  const { [still.id]: _, ...others } = useDesk.getState().saves;
  useDesk.setState({ saves: others });
  const reply = await fetch(fileOf(still.id, wish.form));
  if (!reply.ok) throw new Error((await reply.json()).detail);
  saveFile(await reply.blob(), wish.name, wish.form);
  if (!wish.kept) await actions.removeStill(still.id);
}
