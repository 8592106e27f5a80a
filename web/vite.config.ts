import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    // The page is part of the package.
    outDir: "../juglant/pages",
    emptyOutDir: true,
    target: "es2022",
    rolldownOptions: {
      output: { minify: { compress: { treeshake: { propertyReadSideEffects: false } } } },
    },
    modulePreload: { polyfill: false },
    assetsInlineLimit: 0,
  },
  // For work on the interface: `juglant serve` beside `npx vite`.
  server: { proxy: { "/api": "http://127.0.0.1:8137" } },
});
