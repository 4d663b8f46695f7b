import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Puts each script and style beside itself once more, packed in the ways that browsers take. */
const packed: Plugin = {
  name: "packed",
  writeBundle({ dir }, bundle) {
    for (const name of Object.keys(bundle).filter((file) => /\.(js|css)$/.test(file))) {
      const file = join(dir!, name);
      const whole = readFileSync(file);
      writeFileSync(`${file}.gz`, gzipSync(whole, { level: 9 }));
      writeFileSync(`${file}.br`, brotliCompressSync(whole));
    }
  },
};

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
  plugins: [react(), tailwindcss(), barerShaders, packed],
  // From its modules, of which only those are taken that are used: a third less.
  resolve: command === "build" ? { alias: [{ find: /^three$/, replacement: "three/src/Three.js" }] } : {},
  build: { chunkSizeWarningLimit: 1600, target: "es2022" },
  server: { proxy: { "/api": "http://127.0.0.1:8300" } },
}));
