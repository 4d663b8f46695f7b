/** Words of app/App.tsx. */
export const opening = "Opening…";
