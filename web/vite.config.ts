import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig(({ mode }) => ({
  plugins: [react({ compiler: true })], // a component is made anew only where what it shows has changed
  build: {
    outDir: mode === "test" ? "../.cache/web_for_tests" : "../src/glass_thread/web",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 1500,
  },
}));
