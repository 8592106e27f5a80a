import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.ts", "src/api/limits.ts"] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  a11y.flatConfigs.recommended,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    // React-Bootstrap's fields are the controls of their labels.
    settings: { "jsx-a11y": { components: { "Form.Control": "input", "Form.Select": "select" } } },
    rules: {
      // A field that a press has opened takes the focus that the press had.
      "jsx-a11y/no-autofocus": "off",
      // What scrolls must be reached by keyboard to be scrolled.
      "jsx-a11y/no-noninteractive-tabindex": ["error", { roles: ["region"], tags: ["section"] }],
      // ARIA 1.3 has descriptions on every role, and the browsers read them.
      "jsx-a11y/role-supports-aria-props": "off",
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      eqeqeq: "error",
      "@typescript-eslint/consistent-type-imports": "error",
    },
  },
);
