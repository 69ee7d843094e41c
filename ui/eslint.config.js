import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/*.gen.ts"] },
  { linterOptions: { reportUnusedDisableDirectives: "error" } },
  js.configs.recommended,
  ...ts.configs.recommended,
  hooks.configs.flat.recommended,
  { rules: { "react-hooks/incompatible-library": "off" } }, // speaks of the React Compiler, which does not build this page
  a11y.flatConfigs.strict,
  // Parts of the kit are what they draw.
  {
    settings: {
      "jsx-a11y": {
        components: { Button: "button", Toggle: "button", Quiet: "button", Out: "button", Chip: "button", Field: "input", Num: "input", Area: "textarea", Select: "select" },
      },
    },
  },
);
