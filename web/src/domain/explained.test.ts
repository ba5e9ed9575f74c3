/** Every number that is explained stands on some page with its explanation beside it. */
import { expect, test } from "vitest";

import { NUMBER_KEYS } from "./explained";

const pages: Record<string, string> = import.meta.glob(["../features/**/*.tsx", "./measures.ts"], {
  query: "?raw",
  import: "default",
  eager: true,
});

test.each(NUMBER_KEYS)("%s", (key) => {
  const beside = new RegExp(`(of=|of: |: |, )"${key}"`);
  expect(Object.values(pages).some((text) => beside.test(text))).toBe(true);
});
