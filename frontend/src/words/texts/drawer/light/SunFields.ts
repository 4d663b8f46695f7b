/** Words of drawer/light/SunFields.tsx. */
export const sunByDateAnd = "Sun by date and place…";
export const sunByDateAndPlace = "Sun by date and place";
export const byHand = "By hand";
export const date = "Date";
export const time = (time: string | number) => `Time, ${time}`;
export const place = "Place";
export const ownCoordinates = "own coordinates";
export const latitudeNorth = "Latitude, ° north";
export const longitudeEast = "Longitude, ° east";
export const timeZoneHTo = "Time zone, h to UTC";
export const north = "North";
export const haze = "Haze";
export const northLiesBehindThe =
  "North lies behind the product at 0°. Times are standard time; add an hour to the zone for summer time.";
