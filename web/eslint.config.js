import { readdirSync } from "node:fs";

import js from "@eslint/js";
import { createNodeResolver, importX } from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** A room may import only from the rooms named for it (and from itself): app → features → scene, plots, ui, api → domain. */
const rooms = {
  domain: ["app", "features", "scene", "plots", "ui", "api"],
  api: ["app", "features", "scene", "plots", "ui"],
  ui: ["app", "features", "scene", "plots", "api"],
  plots: ["app", "features", "scene", "api", "ui"],
  scene: ["app", "features", "plots", "api", "ui"],
  features: ["app"],
};
const features = readdirSync(new URL("src/features", import.meta.url));

const forbid = (names, message) => ({
  "no-restricted-imports": ["error", { patterns: [{ group: names, message }] }],
});

export default tseslint.config(
  { ignores: ["src/api/schema.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    plugins: { "import-x": importX },
    settings: { "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx"] })] },
    rules: {
      "import-x/no-cycle": "error",
      "import-x/no-duplicates": "error",
      "import-x/order": ["error", { alphabetize: { order: "asc" } }],
    },
  },
  {
    plugins: { "react-hooks": hooks },
    rules: { ...hooks.configs.recommended.rules, "react-hooks/immutability": "off" },
  },
  ...Object.entries(rooms).map(([room, barred]) => ({
    files: [`src/${room}/**/*.{ts,tsx}`],
    rules: forbid(
      barred.flatMap((b) => [`**/${b}`, `**/${b}/**`]),
      `${room} may not import these rooms.`,
    ),
  })),
  ...features.map((name) => ({
    files: [`src/features/${name}/**/*.{ts,tsx}`],
    rules: forbid(
      ["**/app/**", ...features.filter((f) => f !== name).flatMap((f) => [`**/${f}/**`, `**/features/${f}/**`])],
      "Features do not import each other.",
    ),
  })),
);
