import { expect, test } from "vitest";

import { said, wanting } from "./cards";

test("what has a default may be left empty", () => {
  const inputs = [
    { key: "torque_nmm", default: null },
    { key: "scatter", default: 0.3 },
  ];
  expect(wanting(inputs, { torque_nmm: " " }).map((i) => i.key)).toEqual(["torque_nmm"]);
  expect(wanting(inputs, { torque_nmm: "3 N·m" })).toEqual([]);
});

test("answers have four figures, and what is not there is a dash", () => {
  expect([1234.5678, 0.0123456, 0, 2.5e-7, 2.5e8].map(said)).toEqual(["1235", "0.01235", "0", "2.500e-7", "2.500e+8"]);
  expect([null, true, false, "euler", [1, 2.00001]].map(said)).toEqual(["–", "yes", "no", "euler", "1, 2"]);
});
