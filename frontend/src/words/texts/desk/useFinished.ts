/** Words of desk/useFinished.ts. */
export const theStillFailed = (name: string | number, message: string | number) =>
  `The still “${name}” failed: ${message}`;
export const theStillIsDone = (name: string | number) => `The still “${name}” is done.`;
export const show = "Show";
export const usualLamp = "Usual Lamp";
export const thisBrowserHasNo = "This browser has no notifications.";
export const youAreNotifiedWhen = "You are notified when a still is done and this page is not in sight.";
export const theBrowserDoesNot =
  "The browser does not allow notifications for this page. Change that in its settings.";
