/** Words of desk/RunsBar.tsx. */
export const isComparedAndReady = "is compared and ready to review.";
export const lookAtTheRevision = "Look at the revision";
export const putAway = "Put away";
export const stop = "Stop";
export const aNewer = "A newer";
export const hasAppeared = "has appeared.";
export const compareItWithThis = "Compare it with this revision";
export const takingIn = "Taking in";
export const readingTheRevision = "Reading the revision";
export const tessellating = "Tessellating";
