/** Words of desk/LampSwitch.tsx. */
export const backToTheShaded = "Back to the shaded picture";
export const traceTheLightIn = "Trace the light in this picture";
export const lamp = "Lamp";
export const lampOn = "Lamp on";
export const lampOff = "Lamp off";
