/** Words of app/LinkNotice.tsx. */
export const theConnectionToUsual = "The connection to Usual Lamp is lost. Trying again…";
export const theDatabaseIsStarting =
  "The database is starting again. Your work is safe; changes wait for a moment.";
export const youAreSignedOut = "You are signed out. Open the address that ./lamp up printed.";
