/** Words of desk/Beside.tsx. */
export const fetchingTheLook = "Fetching the look…";
