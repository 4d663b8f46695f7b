/** Words of desk/History.tsx. */
export const theLastEditsGo = "The last edits; go back to any of them";
export const history = "History";
