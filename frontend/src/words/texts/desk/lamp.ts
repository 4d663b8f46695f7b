/** Words of desk/lamp.ts. */
export const theServerAnswered = (status: string | number) => `The server answered ${status}.`;
