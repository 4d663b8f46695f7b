/** Words of api/client.ts. */
export const usualLampDoesNot = "Usual Lamp does not answer. If it was stopped, start it with ./lamp up.";
export const theServerAnswered = (status: string | number) => `The server answered ${status}.`;
