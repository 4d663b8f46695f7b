import ts from "typescript";
import { expect, test } from "vitest";

/** Attributes that are read or heard. */
const SAID = new Set(["label", "title", "text", "placeholder", "aria-label", "alt"]);
const WORD = /[A-Za-z]{2}/;

const sources = import.meta.glob<string>(["./**/*.{ts,tsx}", "!./**/*.test.ts", "!./api/generated/**"], {
  query: "?raw",
  import: "default",
  eager: true,
});
const TEXTS = "./words/texts/";

/** Words that stand in the markup of a file. */
function wordsIn(path: string, source: string): string[] {
  const found: string[] = [];
  const walk = (node: ts.Node) => {
    if (ts.isJsxText(node) && WORD.test(node.text)) found.push(node.text.trim());
    if (ts.isJsxAttribute(node) && SAID.has(node.name.getText()) && node.initializer)
      if (ts.isStringLiteral(node.initializer) && WORD.test(node.initializer.text))
        found.push(node.initializer.text);
    ts.forEachChild(node, walk);
  };
  walk(ts.createSourceFile(path, source, ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX));
  return found;
}

test("what is on the screen is written in words/texts, and nowhere else", () => {
  expect(wordsIn("x.tsx", '<p title="A title">Some {1} words</p>')).toEqual(["A title", "Some", "words"]);
  const elsewhere = Object.entries(sources)
    .filter(([path]) => path.endsWith(".tsx"))
    .flatMap(([path, source]) => wordsIn(path, source).map((words) => `${path}: ${words}`));
  expect(elsewhere).toEqual([]);
});

test("every text is used by the file that its own is called after", () => {
  const unused = Object.entries(sources)
    .filter(([path]) => path.startsWith(TEXTS))
    .flatMap(([path, source]) => {
      const user = path.replace(TEXTS, "./").replace(/\.ts$/, "");
      const code = sources[`${user}.tsx`] ?? sources[`${user}.ts`] ?? "";
      const names = [...source.matchAll(/^export const (\w+)/gm)].map(([, name]) => name!);
      return names
        .filter((name) => !new RegExp(`\\bt\\.${name}\\b`).test(code))
        .map((name) => `${path}: ${name}`);
    });
  expect(unused).toEqual([]);
});
