/** Words of ui/PageProblem.tsx. */
export const allReviews = "All reviews";
