/** Words of desk/SideColumn.tsx. */
export const edgeOnTheLeft = "Edge on the left";
export const edgeOnTheRight = "Edge on the right";
