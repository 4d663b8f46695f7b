/** Words of schedules/shots/StillRow.tsx. */
export const stillRemoved = "Still removed.";
export const undo = "Undo";
export const lookAtThisStill = "Look at this still";
export const ofSamples = (samplesDone: string | number, samples: string | number) =>
  `${samplesDone} of ${samples} samples`;
export const noise = (grain: string | number) => `, noise ${grain}`;
export const relit = ", relit";
export const pause = "Pause";
export const resume = "Resume";
export const stop = "Stop";
export const downloadPng = "Download PNG";
export const removeThisStill = "Remove this still";
export const theTracerFoundNo = "The tracer found no number for them: please report this.";
export const lost = (count: string | number, what: string | number) => `${count} ${what} lost`;
export const current = "✓ current";
export const outOfDate = "△ out of date";
export const waiting = "◌ waiting";
export const tracing = "◔ tracing";
export const finishing = (doing: string) => `◔ ${doing}`;
export const paused = "‖ paused";
export const stopped = "■ stopped";
export const left = (secondsLeft: string | number) => `${secondsLeft} left`;
export const inMin = (minutesAsked: string | number) => `in ${minutesAsked} min`;
export const byNoise = "by noise";
export const min = (whole: string | number, padStart: string | number) => `${whole}:${padStart} min`;
export const hours = (whole: string | number, padStart: string | number) => `${whole}:${padStart} h`;
export const sample = "sample";
export const samples = "samples";
