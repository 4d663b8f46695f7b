/** Words of schedules/appearances/FirstCoat.tsx. */
export const proposesAppearancesFromMaterials =
  "Proposes appearances from materials, names, standard numbers, shapes and colours, with the reasons";
export const firstCoat = "First coat…";
export const withNoAppearanceYet = (parts: string | number) => `${parts} with no appearance yet`;
