/** Words of schedules/parts/ColumnPicker.tsx. */
export const columns = "Columns";
