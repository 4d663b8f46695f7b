import type { StillLine } from "../api/client";
import { actions } from "../api/queries";
import { fileOf } from "../api/stills";
import { type Save, useDesk } from "../state/deskStore";
import type { PictureForm } from "../viewport/canvasFile";

/** Saves what is at an address as a file; the browser asks where, or puts it among its downloads. */
export function saveFrom(address: string, name: string, form: PictureForm) {
  const link = document.createElement("a");
  link.href = address;
  link.download = `${name}.${form === "jpeg" ? "jpg" : form}`;
  link.click();
}

/** Saves a finished still as was asked. One that is not kept leaves the list once its file is here. Throws where it cannot
 * be fetched; it stays among the stills then. */
export async function saveFinished(still: StillLine, wish: Save) {
  const { [still.id]: _, ...others } = useDesk.getState().saves;
  useDesk.setState({ saves: others });
  const reply = await fetch(fileOf(still.id, wish.form));
  if (!reply.ok) throw new Error((await reply.json()).detail);
  const address = URL.createObjectURL(await reply.blob());
  saveFrom(address, wish.name, wish.form);
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
  if (!wish.kept) await actions.removeStill(still.id);
}
