import { defineConfig } from "vite";

/** The screen's plain logic as modules of its own, for tests that call it table by table. */
export default defineConfig({
  build: {
    outDir: "../.cache/modules",
    emptyOutDir: true,
    minify: false,
    lib: {
      entry: {
        times: "src/document/times.ts",
        delta: "src/document/delta.ts",
        viewport: "src/geometry/viewport.ts",
        drag_note: "src/pointing/drag_note.ts",
        shape_level: "src/pointing/shape_level.ts",
        pitch_names: "src/document/pitch_names.ts",
        rounding: "src/document/rounding.ts",
        values: "src/document/values.ts",
        time_text: "src/document/time_text.ts",
      },
      formats: ["es"],
    },
  },
});
