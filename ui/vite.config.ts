import react from "@vitejs/plugin-react";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

const house = process.env.PORCH_LISTEN ?? "127.0.0.1:8080";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: "dist/app",
    emptyOutDir: true,
    assetsInlineLimit: 0, // the content security policy takes nothing inline
    rollupOptions: { input: { index: "index.html", street: "street.html", overlay: "overlay.html", ear: "ear.html", draw: "draw.html" } },
  },
  server: {
    host: "127.0.0.1",
    proxy: Object.fromEntries(["/api", "/enter", "/inbox", "/readyz", "/overlay", "/ear", "/draws"].map((p) => [p, `http://${house}`])),
  },
});
