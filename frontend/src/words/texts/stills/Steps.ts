/** Words of stills/Steps.tsx. */
export const traceNext = "Trace next";
export const pause = "Pause";
export const resume = "Resume";
export const stop = "Stop";
