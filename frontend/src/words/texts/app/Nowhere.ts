/** Words of app/Nowhere.tsx. */
export const thereIsNothingAt = "There is nothing at this address";
export const itMayBeMisspelt = "It may be misspelt, or of an older version.";
export const allReviews = "All reviews";
