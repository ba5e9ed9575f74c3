import { expect, test } from "vitest";

import { axisInto, threeNumbers, torqueWords } from "./hardware";

test("a face that nearly looks along the build direction takes it, another its own", () => {
  expect(axisInto([0, 0.1, 0.995], [0, 0, 1])).toEqual([-0, -0, -1]);
  expect(axisInto([0, 0, -1], [0, 0, 1])).toEqual([0, 0, 1]);
  expect(axisInto([1, 0, 0], [0, 0, 1])).toEqual([-1, -0, -0]);
});

test("torques are read as a wrench is set, places as they are typed", () => {
  expect([torqueWords(900), torqueWords(12500), torqueWords(null)]).toEqual(["0.90 N·m", "12.5 N·m", "–"]);
  expect(threeNumbers(" 1, −2.5; 3 ")).toEqual([1, -2.5, 3]);
  expect(threeNumbers("1 2")).toBeNull();
  expect(threeNumbers("1 2 x")).toBeNull();
});
