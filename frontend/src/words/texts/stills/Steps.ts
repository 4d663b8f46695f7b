/** Words of stills/Steps.tsx. */
export const traceNext = "Trace next";
export const pause = "Pause";
export const resume = "Resume";
export const finishNow = "Finish now";
export const withTheSamples = "With the samples that it has. Up to full HD it can be traced on later.";
export const stop = "Stop";
