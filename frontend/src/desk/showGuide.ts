import { create } from "zustand";

/** Where it is kept how far the guided start has come. */
export const GUIDE = "usual-lamp-guide";

/** How often it was asked for since the page was loaded. */
export const useGuideAsked = create(() => ({ times: 0 }));

/** Opens the guided start again from its beginning. */
export function showGuide() {
  localStorage.removeItem(GUIDE);
  useGuideAsked.setState(({ times }) => ({ times: times + 1 }));
}
