/** Words of drawer/model/FaceSteps.tsx. */
export const put = "Put";
export const downOnThisFace = "down on this face";
export const selectTheSecondFace = "Select the second face on another model to lay";
export const againstIt = "against it.";
export const lay = "Lay";
export const against = "against";
