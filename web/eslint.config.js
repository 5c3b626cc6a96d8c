import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config({ ignores: ["src/api/schema.d.ts"] }, ...ts.configs.strict, {
  plugins: { "react-hooks": hooks },
  rules: { "react-hooks/rules-of-hooks": "error", "react-hooks/exhaustive-deps": "error" },
});
