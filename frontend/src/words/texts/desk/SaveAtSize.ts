/** Words of desk/SaveAtSize.tsx. */
export const saveAtTheSize = "Save at the shot's full size";
