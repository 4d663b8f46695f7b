import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin, type Rolldown } from "vite";
import { leanThree } from "./leanThree.ts";

/** Puts each script and style beside itself once more, packed in the ways that browsers take. */
const packed: Plugin = {
  name: "packed",
  writeBundle({ dir }, bundle) {
    const sizes = new Map<string, number>();
    for (const name of Object.keys(bundle).filter((file) => /\.(js|css)$/.test(file))) {
      const file = join(dir!, name);
      const whole = readFileSync(file);
      const brotli = brotliCompressSync(whole);
      writeFileSync(`${file}.gz`, gzipSync(whole, { level: 9 }));
      writeFileSync(`${file}.br`, brotli);
      sizes.set(name, brotli.length);
    }
    const needed = [...beforeThePicture(bundle)].reduce((sum, name) => sum + sizes.get(name)!, 0);
    if (needed > MOST)
      this.error(`The desk loads ${needed} bytes before its first picture, more than ${MOST}.`);
  },
};

/** Bytes of scripts and styles, packed, that the desk may need before it draws. */
const MOST = 250_000;

/** The page's own script and styles, the desk, and all that these import. */
function beforeThePicture(bundle: Rolldown.OutputBundle): Set<string> {
  const chunks = Object.values(bundle).filter((one) => one.type === "chunk");
  const found = new Set(Object.keys(bundle).filter((name) => /^assets\/index-.*\.css$/.test(name)));
  const take = (name: string): void => {
    if (found.has(name)) return;
    found.add(name);
    for (const other of chunks.find((one) => one.fileName === name)?.imports ?? []) take(other);
  };
  for (const { isEntry, name, fileName } of chunks) if (isEntry || name === "DeskPage") take(fileName);
  return found;
}

/** Shaders without comments, indentation and empty lines. */
const barerShaders: Plugin = {
  name: "barer-shaders",
  transform: {
    filter: { id: /\.glsl\.js$/ },
    handler: (code) => ({
      code: code.replace(/[ \t]*\/\/.*$/gm, "").replace(/\n\s*/g, "\n"),
      map: null,
    }),
  },
};

export default defineConfig(({ command }) => ({
  plugins: [react(), tailwindcss(), leanThree, barerShaders, packed],
  // From its modules, of which only those are taken that are used: a third less.
  resolve: command === "build" ? { alias: [{ find: /^three$/, replacement: "three/src/Three.js" }] } : {},
  build: { chunkSizeWarningLimit: 1600, target: "es2022" },
  server: { proxy: { "/api": "http://127.0.0.1:8300" } },
}));
