import pluginVue from "eslint-plugin-vue"
import a11y from "eslint-plugin-vuejs-accessibility"
import { defineConfigWithVueTs, vueTsConfigs } from "@vue/eslint-config-typescript"
import prettier from "eslint-config-prettier"

export default defineConfigWithVueTs(
  { ignores: ["dist", "node_modules", "src/api/schema.gen.ts", "vite.config.ts"] },
  pluginVue.configs["flat/recommended"],
  vueTsConfigs.recommended,
  a11y.configs["flat/recommended"],
  {
    rules: {
      eqeqeq: ["error", "smart"],
      "@typescript-eslint/switch-exhaustiveness-check": "off",
      // A label stands beside its field and names it; nesting as well is not asked for.
      "vuejs-accessibility/label-has-for": [
        "error",
        { controlComponents: ["KeptField"], required: { some: ["nesting", "id"] } },
      ],
    },
  },
  // A watcher that runs at once would find what is declared below it not there yet.
  { files: ["**/*.vue"], rules: { "no-use-before-define": ["error", { functions: false }] } },
  prettier,
  { rules: { "vue/max-len": ["error", { code: 120, template: 120 }] } },
)
