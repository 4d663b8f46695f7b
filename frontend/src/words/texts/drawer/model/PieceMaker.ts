/** Words of drawer/model/PieceMaker.tsx. */
export const tabletop = "Tabletop";
export const wall = "Wall";
export const plinth = "Plinth";
export const box = "Box";
export const addToTheScene = "Add to the scene";
export const anotherModel = "Another model";
export const furtherModels = "Further models…";
export const changeItAfterwards = (sizeWords: string | number) => `${sizeWords}; change it afterwards`;
