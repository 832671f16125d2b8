import js from "@eslint/js";
import i18next from "eslint-plugin-i18next";
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
      // What it shows meanwhile stays for 300 ms at least; shared/later.tsx has another way.
      "no-restricted-imports": [
        "error",
        { paths: [{ name: "react", importNames: ["lazy"], message: "Use shared/later.tsx." }] },
      ],
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
  {
    // What is said on the screen is said by `t`, and stands in every language's catalogue.
    files: ["src/**/*.tsx", "src/**/*.ts"],
    ignores: [
      "src/**/*.test.ts",
      "src/theme/*",
      "src/api/*",
      "src/main.tsx",
      "src/application.tsx",
    ],
    plugins: { i18next },
    rules: {
      "i18next/no-literal-string": [
        "error",
        {
          mode: "all",
          // Names of the code, of keys, of colours and of files; shapes of CSS.
          words: {
            exclude: [
              "[^a-zA-Z]*",
              "[a-z0-9#][^A-Z ]*",
              "[^a-zA-Z ]\\S*",
              "[a-z_]+[A-Z][\\w/%()-]*",
              "Sequor( / )?|en-GB",
              "(Ctrl |Shift )*([A-Z]|Ctrl|Shift|Alt|Enter|Escape|Delete|Backspace|Tab|Esc)",
              "((inset |repeat|translate|calc|min|opacity )?[-\\d(][^A-Z]*)",
              "use no memo",
            ],
          },
          "jsx-attributes": {
            exclude: ["template(Columns|Rows)", "style", "className", "href", "src", "key", "id"],
          },
          callees: {
            exclude: [
              "t",
              "tn",
              "i18n(ext)?",
              "Error",
              "require",
              "matchMedia",
              "closest",
              "querySelector",
              "open",
              "addEventListener",
              "removeEventListener",
              "dispatchEvent",
              "includes",
              "get",
            ],
          },
        },
      ],
    },
  },
  { plugins: { "react-hooks": reactHooks }, rules: reactHooks.configs.recommended.rules },
);
