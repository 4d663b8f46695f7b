/** Words of viewport/SixViews.tsx. */
export const sixViews = "Six views";
export const lookFromThe = (view: string | number) => `Look from the ${view}`;
export const lookFromBelow = "Look from below";
