/** Words of schedules/lights/KeptLightings.tsx. */
export const keptForAllReviews = (what: string | number) => `Kept for all reviews${what}`;
export const keptLightings = "Kept lightings";
export const addItHereSized = "Add it here, sized to this product and turned to this view";
export const use = (name: string | number) => `Use ${name}`;
export const use2 = "Use";
export const newReviewsStartWith = "New reviews start with it; click for ours again";
export const letNewReviewsStart = "Let new reviews start with it";
export const startWith = (name: string | number) => `Start with ${name}`;
export const start = "Start";
export const remove = (name: string | number) => `Remove ${name}`;
export const remove2 = "Remove";
export const isKeptUseIt = (name: string | number) =>
  `${name} is kept: use it in other reviews under Lights.`;
export const keep = (name: string | number) => `Keep “${name}”`;
export const thePictureIsNot = "The picture is not there yet.";
