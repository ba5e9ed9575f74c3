import { describe, expect, it } from "vitest";

import { alike, rowsOf } from "./candidates";
import type { Measures } from "./measures";

const plain: Measures = {
  needing_area_mm2: 120,
  overhang_area_mm2: 300,
  worst_overhang_deg: 90,
  support_volume_mm3: 4000,
  islands: 0,
  longest_bridge_mm: 12,
  contact_area_mm2: 500,
  first_layer_mm2: 480,
  height_mm: 40,
  tipping_deg: 25,
  drag_ratio: 5,
  scar_mm2: 320,
  curl: 3,
  finish_mm: 0.05,
  time_s: 7200,
};
let next = 0;
const at = (up: number[], more: Partial<Measures> = {}) => ({ ...plain, ...more, up, number: ++next });

describe("candidates as rows", () => {
  it("puts mirror twins into one row, wherever they point", () => {
    const [a, b, c] = [at([1, 0, 0]), at([-1, 0, 0], { time_s: 7210 }), at([0, 0, 1], { needing_area_mm2: 10 })];
    const { rows, falls } = rowsOf([c, a, b]);
    expect(rows.map((r) => [r.first, r.alike])).toEqual([
      [c, []],
      [a, [b]],
    ]);
    expect(falls).toEqual([]);
  });

  it("takes a hair for the same only while its figures are nearly the same too", () => {
    const tilted = [Math.sin(0.05), 0, Math.cos(0.05)];
    expect(alike(at([0, 0, 1]), at(tilted, { support_volume_mm3: 4150 }))).toBe(true);
    expect(alike(at([0, 0, 1]), at([0, 1, 0], { support_volume_mm3: 4150 }))).toBe(false);
    expect(alike(at([0, 0, 1]), at(tilted, { needing_area_mm2: 0 }))).toBe(false);
  });

  it("never takes one that holds for one that fails", () => {
    expect(alike(at([1, 0, 0], { reserve: 1.05 }), at([-1, 0, 0], { reserve: 0.95 }))).toBe(false);
    expect(alike(at([1, 0, 0], { reserve: 1.05 }), at([-1, 0, 0]))).toBe(false);
    expect(alike(at([1, 0, 0], { islands: 1 }), at([-1, 0, 0]))).toBe(false);
  });

  it("folds what cannot stand, unless nothing stands", () => {
    const [a, b] = [at([1, 0, 0]), at([0, 1, 0], { tipping_deg: -2 })];
    expect(rowsOf([a, b]).falls).toEqual([b]);
    expect(rowsOf([b])).toEqual({ rows: [{ first: b, alike: [] }], falls: [] });
  });
});
