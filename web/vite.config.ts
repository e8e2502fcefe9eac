import react from "@vitejs/plugin-react";
import { readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

const OUT = "../src/grandferry/web";

/** Writes a packed copy beside every text asset, so that the server packs nothing at run time. */
function packed(): Plugin {
  return {
    name: "packed",
    apply: "build",
    closeBundle() {
      const folder = join(import.meta.dirname, OUT, "assets");
      for (const name of readdirSync(folder)) {
        const path = join(folder, name);
        if (/\.(js|css|svg)$/.test(name) && statSync(path).size > 1000)
          writeFileSync(`${path}.gz`, gzipSync(readFileSync(path), { level: 9 }));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), packed()],
  html: { cspNonce: "__CSP_NONCE__" },
  build: { outDir: OUT, emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 700, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8700" } },
});
