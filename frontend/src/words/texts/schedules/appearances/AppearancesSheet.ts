/** Words of schedules/appearances/AppearancesSheet.tsx. */
export const notAssigned = (parts: string | number) => `${parts} not assigned`;
export const selectThem = "Select them";
