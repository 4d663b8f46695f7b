/** Where it is kept how far the guided start has come. */
export const GUIDE = "usual-lamp-guide";
export const SHOW_GUIDE = "usual-lamp-show-guide";

/** Opens the guided start again from its beginning. */
export function showGuide() {
  localStorage.removeItem(GUIDE);
  window.dispatchEvent(new Event(SHOW_GUIDE));
}
