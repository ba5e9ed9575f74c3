import { describe, expect, it } from "vitest";

import { REMEDY_NUMBERS, bodiesOf, decodeOutlines } from "./layers";

const square = (half: number, x = 0): number[] => [x - half, -half, x + half, -half, x + half, half, x - half, half];
const hole = (half: number, x = 0): number[] => [x - half, -half, x - half, half, x + half, half, x + half, -half];

/** Three layers: a square with a hole, none, two squares of which the second lies in a hole of the first. */
function packed(): ArrayBuffer {
  const loops = [square(5), hole(2), hole(4), square(1), square(8)];
  const out = new ArrayBuffer(4 + 12 + 4 * 4 + 4 * 6 + 8 * 20);
  new Uint8Array(out).set(new TextEncoder().encode("HWL1"));
  new Uint32Array(out, 4, 13).set([3, 5, 20, 0, 2, 2, 5, 0, 4, 8, 12, 16, 20]);
  new Float32Array(out, 56, 40).set(loops.flat());
  return out;
}

describe("outlines", () => {
  it("come layer by layer", () => {
    const read = decodeOutlines(packed());
    expect(read.count).toBe(3);
    expect(read.layer(0).map((l) => [...l])).toEqual([square(5), hole(2)]);
    expect(read.layer(1)).toEqual([]);
    expect(read.layer(2)).toHaveLength(3);
    expect(read.layer(3)).toEqual([]);
  });

  it("refuse what is something else", () => {
    expect(() => decodeOutlines(new ArrayBuffer(64))).toThrow("cannot read");
  });

  it("give every hole to the least loop round it", () => {
    const bodies = bodiesOf(decodeOutlines(packed()).layer(2));
    expect(bodies.map((b) => b.map((l) => [...l]))).toEqual([[square(1)], [square(8), hole(4)]]);
    expect(
      bodiesOf([Float32Array.from(square(1)), Float32Array.from(square(1, 9)), Float32Array.from(hole(0.5, 9))]).map(
        (b) => b.length,
      ),
    ).toEqual([1, 2]);
  });
});

it("says the numbers of a remedy", () => {
  expect(REMEDY_NUMBERS.teardrop?.({ key: "teardrop", apex_mm: 14.142, included_deg: 90 })).toBe(
    "apex 14.14 mm above the axis, 90° between its roofs",
  );
  expect(REMEDY_NUMBERS.gusset?.({ key: "gusset", rise_mm: 12 })).toBe("12.00 mm high");
});
