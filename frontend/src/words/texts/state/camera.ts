/** Words of state/camera.ts. */
export const fromAbove = "From above";
export const fromBelow = "From below";
export const back = "Back";
export const backLeft = "Back left";
export const left = "Left";
export const frontLeft = "Front left";
export const front = "Front";
export const frontRight = "Front right";
export const right = "Right";
export const backRight = "Back right";
export const fromAbove2 = (words: string | number) => `${words}, from above`;
export const fromBelow2 = (words: string | number) => `${words}, from below`;
