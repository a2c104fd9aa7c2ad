import { defineConfig } from "vite"
import vue from "@vitejs/plugin-vue"
import tailwindcss from "@tailwindcss/vite"

// The console is built into the service's own binary: see internal/console.
export default defineConfig({
  plugins: [vue(), tailwindcss()],
  build: { outDir: "../internal/console/dist", emptyOutDir: true, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:8460" } },
})
