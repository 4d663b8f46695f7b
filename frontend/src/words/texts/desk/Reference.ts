/** Words of desk/Reference.tsx. */
export const referencePicture = "Reference picture";
export const reference = "Reference…";
export const howTheReferenceIs = "How the reference is shown";
export const beside = "beside";
export const wipe = "wipe";
export const unpinTheReference = "Unpin the reference";
export const reference2 = (name: string | number) => `Reference: ${name}`;
