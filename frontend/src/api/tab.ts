/** What this browser tab calls itself, so that an edit can be told to be its own; kept while the tab lives. */
export const TAB = name();

function name(): string {
  const made = `tab-${Math.random().toString(36).slice(2, 14)}`;
  try {
    const known = sessionStorage.getItem("usual-lamp-tab");
    if (known) return known;
    sessionStorage.setItem("usual-lamp-tab", made);
  } catch {
    // Without storage, a reloaded page counts as another tab.
  }
  return made;
}
