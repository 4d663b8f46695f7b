import type { toast as Toast } from "sonner";

type Said = Parameters<typeof Toast>;

let want: () => void;
let canShow: () => void;
/** When something is to be said for the first time. */
export const firstNote = new Promise<void>((done) => {
  want = done;
});
const ready = new Promise<void>((done) => {
  canShow = done;
});
/** Called by what shows the notes, once it does. */
export const notesShow = () => canShow();

/** Sonner is fetched with the first note, or when the page has nothing else to do. */
async function notes() {
  want();
  await ready;
  return (await import("sonner")).toast;
}

/** Says something at the foot of the page. */
export const toast = Object.assign(
  (...said: Said) => {
    notes().then((say) => say(...said));
  },
  {
    error: (...said: Said) => {
      notes().then((say) => say.error(...said));
    },
    /** What goes on, and how it ends. */
    promise: <T>(...said: Parameters<typeof Toast.promise<T>>) => {
      notes().then((say) => say.promise(...said));
    },
  },
);
