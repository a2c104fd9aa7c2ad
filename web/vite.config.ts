import { defineConfig } from "vitest/config"
import vue from "@vitejs/plugin-vue"
import tailwindcss from "@tailwindcss/vite"

// The console is built into the service's own binary: see internal/console.
export default defineConfig({
  // A line break between two inline elements is a space, as in HTML and as the formatter sees it.
  plugins: [vue({ template: { compilerOptions: { whitespace: "preserve" } } }), tailwindcss()],
  build: { outDir: "../internal/console/dist", emptyOutDir: true, assetsInlineLimit: 0 },
  // Files share a document each worker makes once: making one takes longer than their tests.
  test: { environment: "happy-dom", include: ["src/**/*.test.ts"], isolate: false },
  server: { fs: { allow: [".."] }, proxy: { "/api": "http://127.0.0.1:8460" } },
})
