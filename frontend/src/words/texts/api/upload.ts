/** Words of api/upload.ts. */
export const ofMb = (sent: string | number, size: string | number) => `${sent} of ${size} MB`;
export const cannotBeImportedExport = (name: string | number) =>
  `${name} cannot be imported. Export STEP from CAD, or a mesh as glTF, 3MF, OBJ, STL, PLY, OFF or Collada.`;
export const isEmptyExportIt = (name: string | number) => `${name} is empty. Export it from CAD again.`;
export const sending = (name: string | number) => `Sending ${name}…`;
export const isBeingRead = (name: string | number) => `${name} is being read.`;
export const theFileCouldNot = "The file could not be sent. Try again.";
export const theServerAnswered = (status: string | number) => `The server answered ${status}.`;
export const theServerAnswered2 = (status: string | number) => `The server answered ${status}.`;
