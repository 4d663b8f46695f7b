/** Typefaces of the scripts that the page's own, Latin ones do not have; each comes when a name needs it. */
const SCRIPTS = {
  "greek and cyrillic": {
    letters: /[\u0370-\u03ff\u0400-\u052f\u1f00-\u1fff]/,
    load: () => import("@fontsource-variable/noto-sans/wght.css"),
  },
  japanese: { letters: /[\u3040-\u30ff]/, load: () => import("@fontsource-variable/noto-sans-jp/wght.css") },
  korean: {
    letters: /[\u1100-\u11ff\uac00-\ud7af]/,
    load: () => import("@fontsource-variable/noto-sans-kr/wght.css"),
  },
  chinese: { letters: /[\u3400-\u9fff]/, load: () => import("@fontsource-variable/noto-sans-sc/wght.css") },
} as const;
export type Script = keyof typeof SCRIPTS;

/** The scripts that occur in a text. Chinese characters among kana are Japanese. */
export function scriptsIn(text: string): Script[] {
  const found = (Object.keys(SCRIPTS) as Script[]).filter((script) => SCRIPTS[script].letters.test(text));
  return found.includes("japanese") ? found.filter((script) => script !== "chinese") : found;
}

/** Fetches the typefaces that a text needs; once each. */
export function loadTypefaces(text: string) {
  for (const script of scriptsIn(text)) SCRIPTS[script].load().catch(() => undefined);
}
