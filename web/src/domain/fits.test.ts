import { expect, test } from "vitest";

import { VERDICTS, kindOfMeasure, signed } from "./fits";

test("clearances carry their sign, as figures do everywhere", () => {
  expect(signed(0.137)).toBe("+0.14");
  expect(signed(-0.19)).toBe("−0.19");
  expect(signed(0)).toBe("0.00");
  expect(signed(null)).toBe("–");
});

test("every measure and verdict has a word; what fails is told apart", () => {
  expect(kindOfMeasure("slot")).toBe("gap");
  expect(Object.keys(VERDICTS).filter((v) => VERDICTS[v]?.fails)).toEqual(["tight", "loose", "off"]);
});
