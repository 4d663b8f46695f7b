/** Words of viewport/canvasFile.ts. */
export const theBrowserCouldNot = "The browser could not make a picture of the desk.";
