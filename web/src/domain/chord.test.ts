import { describe, expect, it } from "vitest";

import { chordAt } from "./chord";

const box = (x0: number, y0: number, x1: number, y1: number) => [x0, y0, x1, y0, x1, y1, x0, y1];
const hole = (x0: number, y0: number, x1: number, y1: number) => [x0, y0, x0, y1, x1, y1, x1, y0];
const W = 0.45;

/** A slab as thick as `t`, drawn by lines side by side; what they leave between is a slit or infill. */
function slab(t: number, perimeters: number, core = false) {
  const lines = [];
  for (let i = 0; i < perimeters && W / 2 + i * W < t / 2; i++)
    lines.push([box(W / 2 + i * W, -20 + W / 2 + i * W, t - W / 2 - i * W, 20 - W / 2 - i * W)]);
  const left = lines.length * W;
  const rest = t - 2 * left > 1e-9 ? [box(left, -20 + left, t - left, 20 - left)] : [];
  return {
    outline: [box(0, -20, t, 20)],
    lines,
    core: core ? rest : [],
    slits: core ? [] : rest,
    bare: [],
    width_mm: W,
    inner_mm: W,
  };
}

describe("what is drawn across a wall", () => {
  it("counts the lines between both faces", () => {
    for (const n of [1, 2, 3]) {
      const chord = chordAt(slab(2 * n * W, 3), [0.1, 3]);
      expect(chord?.thickness).toBeCloseTo(2 * n * W);
      expect(chord?.lines).toBe(2 * n);
      expect(chord?.slit).toBeCloseTo(0);
    }
  });

  it("tells the slit that lines leave, and the infill", () => {
    const split = chordAt(slab(2.0, 2), [1.9, 0]);
    expect([split?.lines, split?.infill]).toEqual([4, 0]);
    expect(split?.slit).toBeCloseTo(2.0 - 4 * W);
    const filled = chordAt(slab(12, 2, true), [5, 1]);
    expect(filled?.lines).toBe(4);
    expect(filled?.infill).toBeCloseTo(12 - 4 * W);
    expect(filled?.from[0]).toBeCloseTo(0);
    expect(filled?.to[0]).toBeCloseTo(12);
  });

  it("counts a line squeezed between two faces once", () => {
    const t = 0.5;
    const drawn = { ...slab(t, 0), lines: [[box(0.23, -19, 0.27, 19)]], slits: [] };
    expect(chordAt(drawn, [0.4, 2])?.lines).toBe(1);
  });

  it("goes to a hole's face where that is nearer, and is nothing outside and in the hole", () => {
    const plan = { ...slab(40, 0), outline: [box(0, -20, 40, 20), hole(10, -5, 20, 5)], lines: [], slits: [] };
    const chord = chordAt(plan, [9, 0]);
    expect(chord?.from[0]).toBeCloseTo(10);
    expect(chord?.thickness).toBeCloseTo(10);
    expect(chordAt(plan, [15, 0])).toBeNull();
    expect(chordAt(plan, [41, 0])).toBeNull();
  });

  it("has a way even on the face itself", () => {
    expect(chordAt(slab(4 * W, 2), [1e-9, 3])?.thickness).toBeCloseTo(4 * W);
  });
});
