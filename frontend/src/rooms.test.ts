import { expect, test } from "vitest";

/** Each room may use those before it, and itself; never one after it. */
const ROOMS = [
  "words",
  "api",
  "ui",
  "state",
  "viewport",
  "schedules",
  "drawer",
  "stills",
  "desk",
  "reviews",
  "app",
];
const REFERENCE = /(?:from|import\()\s*"(\.[^"]+)"/g;

const texts = import.meta.glob<string>(["./**/*.{ts,tsx}", "!./**/*.test.ts"], {
  query: "?raw",
  import: "default",
  eager: true,
});
const known = new Set(Object.keys(texts).map((path) => path.slice(2)));

/** The address of what a file names, from the folder of all sources. */
function addressOf(file: string, named: string): string {
  return new URL(named, `x:/${file}`).pathname.slice(1);
}

const uses = new Map(
  [...known].map((file) => {
    const named = [...texts[`./${file}`]!.matchAll(REFERENCE)].map(([, path]) => addressOf(file, path!));
    return [
      file,
      named.flatMap((path) => [path, `${path}.ts`, `${path}.tsx`].filter((one) => known.has(one))),
    ];
  }),
);
const roomOf = (file: string) => ROOMS.indexOf(file.split("/")[0]!);

test("rooms use those beneath them only", () => {
  const upwards = [...uses].flatMap(([file, used]) =>
    used
      .filter((other) => roomOf(file) >= 0 && roomOf(other) > roomOf(file))
      .map((other) => `${file} → ${other}`),
  );
  expect(known.size).toBeGreaterThan(100);
  expect(upwards).toEqual([]);
  expect([...known].filter((file) => file.includes("/") && roomOf(file) < 0)).toEqual([]);
});

test("no file uses itself round a corner", () => {
  const done = new Set<string>();
  const visit = (file: string, way: string[]): void => {
    if (way.includes(file)) throw new Error([...way.slice(way.indexOf(file)), file].join(" → "));
    if (done.has(file)) return;
    for (const other of uses.get(file)!) visit(other, [...way, file]);
    done.add(file);
  };
  for (const file of known) visit(file, []);
  expect(done.size).toBe(known.size);
});
