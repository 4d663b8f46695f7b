/** Words of ui/controls.tsx. */
export const picker = (label: string | number) => `${label}, picker`;
export const hex = (label: string | number) => `${label}, hex`;
