import { defineConfig } from "vite";
import { viteSingleFile } from "vite-plugin-singlefile";

/** The page that checks a card by itself: one file, without anything beside it. */
export default defineConfig({
  root: "verify",
  plugins: [viteSingleFile()],
  build: { target: "es2022", outDir: "../dist/verify", emptyOutDir: true },
});
