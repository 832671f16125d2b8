import js from "@eslint/js";
import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    // What prettier leaves: comments. Sentences for the screen stay in one line.
    rules: {
      "max-len": [
        "error",
        { code: 100, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreUrls: true },
      ],
    },
  },
  { plugins: { "react-hooks": reactHooks }, rules: reactHooks.configs.recommended.rules },
);
