/** Words of api/forecast.ts. */
export const theLampIsBusy = "The lamp is busy with other pictures, so how long it takes is not known now.";
