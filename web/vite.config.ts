import { createHash } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Writes the service worker of a build: it knows all files of that build by name, and is another for every other. */
function offline(): Plugin {
  return {
    name: "offline",
    apply: "build",
    enforce: "post",
    generateBundle(_options, bundle) {
      const shipped = readdirSync("public").map((f) => `/${f}`);
      const heavy = (f: string) => /assets\/ModelView-/.test(f); // fetched when it is opened, and not before
      const files = [...Object.keys(bundle).filter((f) => !f.endsWith(".html") && !heavy(f)).map((f) => `/${f}`), ...shipped].sort();
      const worker = readFileSync("src/api/worker.js", "utf-8");
      const build = createHash("sha256").update(files.join(" ")).update(worker).digest("hex").slice(0, 12);
      const source = `const BUILD = ${JSON.stringify(build)};\nconst FILES = ${JSON.stringify(files)};\n${worker}`;
      this.emitFile({ type: "asset", fileName: "sw.js", source });
    },
  };
}

/** What the answers of the server look like, so that a page knows copies that another page took along. */
const described = readFileSync("src/api/schema.d.ts", "utf-8").replace(/\/\*\*[\s\S]*?\*\//g, "");
const shapes = createHash("sha256").update(described).digest("hex").slice(0, 12);

export default defineConfig({
  define: { __SHAPES__: JSON.stringify(shapes) },
  plugins: [react(), tailwindcss(), offline()],
  server: { proxy: { "/api": "http://127.0.0.1:8017" } },
  build: { target: "es2022", chunkSizeWarningLimit: 1100 },
});
