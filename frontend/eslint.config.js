import hooks from "eslint-plugin-react-hooks";
import a11y from "eslint-plugin-jsx-a11y";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["src/api/generated"] },
  ...tseslint.configs.strict,
  a11y.flatConfigs.recommended,
  {
    plugins: { "react-hooks": hooks },
    rules: {
      // Only fields of panels and forms that were just asked for take the focus.
      "jsx-a11y/no-autofocus": "off",
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
    },
  },
);
