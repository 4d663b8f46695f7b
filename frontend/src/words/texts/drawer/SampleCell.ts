/** Words of drawer/SampleCell.tsx. */
export const give = (name: string | number) => `Give ${name}`;
export const takeOffTheShelf = (name: string | number) => `Take ${name} off the shelf`;
