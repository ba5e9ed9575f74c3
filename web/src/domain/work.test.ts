import { expect, test } from "vitest";

import { leftWords, secondsLeft } from "./work";

test("a third done in ten seconds leaves twenty", () => {
  expect(secondsLeft({ share: 0, ms: 1000 }, { share: 1 / 3, ms: 11_000 })).toBeCloseTo(20);
  expect(secondsLeft({ share: 0.5, ms: 0 }, { share: 0.75, ms: 5000 })).toBeCloseTo(5);
});

test("nothing is said of too little", () => {
  expect(secondsLeft({ share: 0, ms: 0 }, { share: 0.9, ms: 500 })).toBe(null);
  expect(secondsLeft({ share: 0.2, ms: 0 }, { share: 0.21, ms: 60_000 })).toBe(null);
});

test.each([
  [3, "a few seconds more"],
  [12, "about 10 s more"],
  [86, "about 90 s more"],
  [200, "about 3 min more"],
])("%d s", (seconds, words) => {
  expect(leftWords(seconds)).toBe(words);
});
