import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["src/sketch/core/wasm_exec.js"] },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: Object.fromEntries(Object.keys(hooks.rules).map((r) => [`react-hooks/${r}`, "error"])),
  },
);
