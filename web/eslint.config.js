import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// Which folders a folder may import from; everything else is forbidden.
const ARROWS = {
  document: [],
  geometry: ["document"],
  drawing: ["geometry", "document"],
  gestures: ["document", "geometry"],
  playback: ["document"],
  api: ["document"],
  hooks: ["document", "geometry", "drawing", "gestures", "playback", "api"],
  components: ["hooks", "document", "geometry", "drawing"],
  screens: ["hooks", "components", "document"],
};

const layers = Object.entries(ARROWS).map(([folder, allowed]) => ({
  files: [`src/${folder}/**/*.{ts,tsx}`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: Object.keys(ARROWS)
          .filter((other) => other !== folder && !allowed.includes(other))
          .map((other) => ({ group: [`../${other}/*`, `../../${other}/*`], message: `${folder} may not import ${other}` })),
      },
    ],
  },
}));

export default tseslint.config(
  ...tseslint.configs.strictTypeChecked,
  { languageOptions: { parserOptions: { projectService: true } } },
  { plugins: { "react-hooks": hooks }, rules: { ...hooks.configs.recommended.rules } },
  {
    rules: {
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/no-confusing-void-expression": "off", // a handler may be the call that it makes
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
    },
  },
  ...layers,
);
