const KEY = "usual-lamp-recent-samples";
const MOST = 16;

/** Samples given lately, the last first; a habit of the person, kept by the browser. */
export function recentSamples(): string[] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(stored) ? stored.filter((id) => typeof id === "string") : [];
  } catch {
    return [];
  }
}

export function noteSample(id: string) {
  localStorage.setItem(
    KEY,
    JSON.stringify([id, ...recentSamples().filter((other) => other !== id)].slice(0, MOST)),
  );
}
