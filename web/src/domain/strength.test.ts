import { describe, expect, it } from "vitest";

import { type Measures, columnsFor, comparedFor, holding } from "./measures";
import { decodeFields, reserve } from "./strength";

/** Two cases on 2 × 1 × 3 cells. */
function packed(): ArrayBuffer {
  const out = new ArrayBuffer(4 + 16 + 16 + 8 + 12);
  new Uint8Array(out).set(new TextEncoder().encode("HWF1"));
  new Uint32Array(out, 4, 4).set([2, 1, 3, 2]);
  new Float32Array(out, 20, 4).set([-1, 2, 0.5, 0.25]);
  new Float32Array(out, 36, 2).set([0.75, 1.5]);
  new Uint8Array(out, 44).set([0, 1, 2, 3, 4, 255, 10, 11, 12, 13, 14, 15]);
  return out;
}

describe("a field over the part", () => {
  it("comes case by case", () => {
    const [push, pull] = decodeFields(packed());
    expect(push).toMatchObject({ counts: [2, 1, 3], low: [-1, 2, 0.5], size: 0.25, most: 0.75 });
    expect([...(push?.cells ?? [])]).toEqual([0, 1, 2, 3, 4, 255]);
    expect(pull?.most).toBe(1.5);
    expect([...(pull?.cells ?? [])]).toEqual([10, 11, 12, 13, 14, 15]);
  });

  it("refuses what is something else", () => {
    expect(() => decodeFields(new ArrayBuffer(80))).toThrow("cannot read");
  });
});

const plain: Measures = {
  needing_area_mm2: 0,
  overhang_area_mm2: 0,
  worst_overhang_deg: 0,
  support_volume_mm3: 0,
  islands: 0,
  longest_bridge_mm: 0,
  contact_area_mm2: 9,
  first_layer_mm2: 9,
  height_mm: 9,
  tipping_deg: 40,
  drag_ratio: 9,
  scar_mm2: 0,
  curl: 1,
  finish_mm: 0.1,
  time_s: 60,
};

describe("reserves", () => {
  it("are written to what they mean", () => {
    expect([0.6234, 12.34, 240, null, undefined].map(reserve)).toEqual(["0.62", "12.3", "99+", "–", "–"]);
  });

  it("are a column where loads have been checked", () => {
    expect(columnsFor([plain]).map((c) => c.key)).not.toContain("reserve");
    const [first] = columnsFor([plain, { ...plain, reserve: 0.8 }]);
    expect(first?.key).toBe("reserve");
    expect(first?.fails?.({ ...plain, reserve: 0.8 })).toBe(true);
    expect(first?.fails?.({ ...plain, reserve: 1 })).toBe(false);
    expect(comparedFor([{ ...plain, reserve: 2 }])[0]?.better).toBe("more");
  });

  it("are part of the answer", () => {
    const result = (more: Partial<Measures>, coarse = false) =>
      holding({ ...plain, weakest_case: "gust", ...more }, true, coarse);
    expect(result({ reserve: 0.8 })).toEqual({ words: "Fails under gust, reserve 0.80.", state: "fails" });
    expect(result({ reserve: 1.4 })).toEqual({ words: "Holds its loads, reserve 1.40 under gust.", state: "holds" });
    expect(result({ reserve: 5 })?.words).toBe("Holds its loads, reserve 5.00.");
    expect(result({ reserve: 1.4, reserve_low: 0.6, reserve_high: 1.5, doubtful: true }, true)).toEqual({
      words: "May fail under gust, reserve 1.40 (0.60…1.50, coarse).",
      state: "doubtful",
    });
    expect(result({})?.words).toBe("Strength not yet checked.");
    expect(holding(plain, false, false)).toBeNull();
  });
});
