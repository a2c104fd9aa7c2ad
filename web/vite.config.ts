import { defineConfig } from "vitest/config"
import vue from "@vitejs/plugin-vue"
import tailwindcss from "@tailwindcss/vite"

// The console is built into the service's own binary: see internal/console.
export default defineConfig({
  // A line break between two inline elements is a space, as in HTML and as the formatter sees it.
  plugins: [vue({ template: { compilerOptions: { whitespace: "preserve" } } }), tailwindcss()],
  build: { outDir: "../internal/console/dist", emptyOutDir: true, assetsInlineLimit: 0 },
  test: {
    environment: "happy-dom",
    projects: [
      {
        // They share a document that each worker makes once: making one takes longer than their tests.
        extends: true,
        test: {
          name: "plain",
          include: ["src/**/*.test.ts"],
          exclude: ["**/*.mocked.test.ts"],
          isolate: false,
        },
      },
      // Those that put something else in the place of a module are apart from all others.
      { extends: true, test: { name: "mocked", include: ["src/**/*.mocked.test.ts"] } },
    ],
  },
  server: { fs: { allow: [".."] }, proxy: { "/api": "http://127.0.0.1:8460" } },
})
