/** Words of drawer/ParameterRows.tsx. */
export const fewerParameters = "Fewer parameters";
export const coloursAsHexOnly = "Colours as hex only";
export const coloursAsCielab = "Colours as CIELAB";
