import { defineConfig } from "oxlint";

// Which folders a folder may import from; everything else is forbidden.
const ARROWS = {
  document: [],
  geometry: ["document"],
  drawing: ["geometry", "document"],
  gestures: ["document", "geometry"],
  playback: ["document"],
  api: ["document"],
  session: ["document", "geometry", "api"],
  listening: ["document", "playback", "api", "session"],
  commands: ["document", "geometry", "gestures", "api", "session", "listening"],
  pointers: ["document", "geometry", "gestures", "session", "listening", "commands"],
  hooks: ["document", "geometry", "drawing", "api", "session", "listening", "commands", "pointers"],
  measuring: ["document", "geometry", "session", "listening", "commands"],
  components: ["document", "geometry", "drawing", "session", "listening", "commands", "hooks"],
  screens: ["document", "session", "listening", "commands", "hooks", "components"],
};

const layers = Object.entries(ARROWS).map(([folder, allowed]) => ({
  files: [`src/${folder}/**/*.{ts,tsx}`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: Object.keys(ARROWS)
          .filter((other) => other !== folder && !allowed.includes(other))
          .map((other) => ({
            group: ["..", "../..", "../../.."].map((up) => `${up}/${other}/**`),
            message: `${folder} may not import ${other}`,
          })),
      },
    ],
  },
}));

// How long a function may be, its first and last line counted: 60 lines of body in components, 40 elsewhere.
const bodies = [
  ["src/**/*.ts", 42],
  ["src/**/*.tsx", 62],
].map(([files, max]) => ({
  files: [files],
  rules: { "eslint/max-lines-per-function": ["error", { max, skipBlankLines: true, skipComments: true }] },
}));

/** Rules without settings, by name. */
const on = (plugin, names) =>
  Object.fromEntries(
    names
      .trim()
      .split(/\s+/)
      .map((name) => [plugin + name, "error"]),
  );

export default defineConfig({
  plugins: ["typescript", "react"],
  categories: { correctness: "error" },
  rules: {
    ...on(
      "eslint/",
      "no-var prefer-const prefer-rest-params prefer-spread no-array-constructor no-unused-expressions no-unused-vars no-useless-constructor",
    ),
    ...on(
      "typescript/",
      `
      await-thenable ban-ts-comment no-array-delete no-base-to-string no-deprecated no-duplicate-enum-values
      no-duplicate-type-constituents no-dynamic-delete no-empty-object-type no-explicit-any
      no-extra-non-null-assertion no-extraneous-class no-floating-promises no-for-in-array
      no-generated-empty-object-type no-implied-eval no-invalid-void-type no-meaningless-void-operator no-misused-new
      no-misused-promises no-misused-spread no-mixed-enums no-namespace no-non-null-asserted-nullish-coalescing
      no-non-null-asserted-optional-chain no-redundant-type-constituents no-require-imports no-this-alias
      no-unnecessary-boolean-literal-compare no-unnecessary-condition no-unnecessary-template-expression
      no-unnecessary-type-arguments no-unnecessary-type-assertion no-unnecessary-type-constraint
      no-unnecessary-type-conversion no-unnecessary-type-parameters no-unsafe-argument no-unsafe-assignment
      no-unsafe-call no-unsafe-declaration-merging no-unsafe-enum-assignment no-unsafe-enum-comparison
      no-unsafe-function-type no-unsafe-member-access no-unsafe-return no-unsafe-unary-minus
      no-useless-default-assignment no-wrapper-object-types only-throw-error prefer-as-const
      prefer-literal-enum-member prefer-namespace-keyword prefer-promise-reject-errors prefer-reduce-type-parameter
      prefer-return-this-type related-getter-setter-pairs require-await restrict-plus-operands return-await
      triple-slash-reference unbound-method unified-signatures use-unknown-in-catch-callback-variable`,
    ),
    "typescript/restrict-template-expressions": ["error", { allowNumber: true }],
    ...on(
      "react/",
      `rules-of-hooks exhaustive-deps static-components use-memo preserve-manual-memoization incompatible-library
      immutability globals refs set-state-in-effect error-boundaries purity set-state-in-render unsupported-syntax`,
    ),
  },
  overrides: [...layers, ...bodies],
});
