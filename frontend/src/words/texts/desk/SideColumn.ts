/** Words of desk/SideColumn.tsx. */
export const edgeOfTheSchedules = "Edge of the schedules";
export const edgeOfTheDrawer = "Edge of the drawer";
