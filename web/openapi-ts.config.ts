import { defineConfig } from "@hey-api/openapi-ts";

/** Types only, from the API's own description. */
export default defineConfig({
  input: "../.cache/openapi.json",
  output: { path: "../.cache/types", clean: true },
  parser: { filters: { operations: { exclude: ["/.*/"] }, orphans: true } },
  plugins: [{ name: "@hey-api/typescript", exportFromIndex: false }],
});
