/** Words of api/standing.ts. */
export const theServerToldOf = "The server told of a change that does not fit. Reload the page.";
