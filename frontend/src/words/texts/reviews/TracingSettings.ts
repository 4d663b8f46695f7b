/** Words of reviews/TracingSettings.tsx. */
export const tracing = "Tracing";
export const tracingResources = "Tracing resources";
export const fetchingTheSettings = "Fetching the settings…";
export const cores = "Cores";
export const ofWord = (cores: string | number) => `of ${cores}`;
export const memory = "Memory";
export const ofGbEachProcess = (memory: string | number) => `of ${memory} GB, each process`;
export const takesEffectImmediatelyFor =
  "Takes effect immediately, for stills and for the lamp. Stills give way to the lamp in any case.";
export const cancel = "Cancel";
export const keep = "Keep";
