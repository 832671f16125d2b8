import js from "@eslint/js";
import jsxA11y from "eslint-plugin-jsx-a11y";
import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "coverage", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  jsxA11y.flatConfigs.recommended,
  {
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": "error",
      "max-lines": ["error", { max: 200 }],
      "max-lines-per-function": ["error", { max: 150 }],
      "max-params": ["error", 5],
      // In a window that opens the focus goes to what does least; its fields are no bare elements.
      "jsx-a11y/no-autofocus": ["error", { ignoreNonDOM: true }],
      // What prettier leaves: comments. Sentences for the screen stay in one line.
      "max-len": [
        "error",
        { code: 100, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreUrls: true },
      ],
    },
  },
  { plugins: { "react-hooks": reactHooks }, rules: reactHooks.configs.recommended.rules },
);
