/** Words of schedules/lights/LightRow.tsx. */
export const switchOff = (name: string | number) => `Switch ${name} off`;
export const switchOn = (name: string | number) => `Switch ${name} on`;
export const lightsNothingByItself = "lights nothing by itself";
export const levelOfEv = (name: string | number) => `Level of ${name}, EV`;
export const levelOf = (name: string | number) => `Level of ${name}`;
