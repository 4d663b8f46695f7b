/** Words of schedules/lights/LightRows.tsx. */
export const light = "Light";
export const levelEv = "Level, EV";
export const share = "Share";
export const lights = "Lights";
export const displaysIndicators = "displays, indicators";
export const fromAllAround = "from all around";
export const fromAllAroundRotated = (turn: string | number) => `from all around, rotated ${turn}°`;
export const surroundings = "Surroundings";
export const glowingParts = "Glowing parts";
