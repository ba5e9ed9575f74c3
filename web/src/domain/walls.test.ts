import { describe, expect, it } from "vitest";

import { pointer } from "./pointer";
import {
  HELD_BACK,
  PLACES,
  WALL_NAMES,
  acrossWords,
  dyeOf,
  kindWords,
  leftIn,
  rebinned,
  stripEnd,
  wrongOnes,
  zonesBetween,
} from "./walls";

describe("walls in whole lines", () => {
  const zones = [
    { least_mm: 1.0, most_mm: 1.1 },
    { least_mm: 2.0, most_mm: 2.6 },
  ];
  it("finds the zones that a stretch of thickness holds", () => {
    expect(zonesBetween(zones, 1.05, 1.1)).toEqual([0]);
    expect(zonesBetween(zones, 1.1, 1.9)).toEqual([0]);
    expect(zonesBetween(zones, 1.2, 1.995)).toEqual([1]);
    expect(zonesBetween(zones, 0, 3)).toEqual([0, 1]);
    expect(zonesBetween(zones, 3, 4)).toEqual([]);
  });
  it("keeps all of the area when it is put into other bars", () => {
    const edges = [0, 0.05, 0.1, 0.15, 0.2];
    const bars = rebinned(edges, [1, 2, 3, 4], 0.1, 2);
    expect(bars).toEqual([1, 9]);
    expect(bars.reduce((a, v) => a + v, 0)).toBe(10);
  });
  it("ends the strip past the sparse core, and not far past it", () => {
    expect(stripEnd([0, 1, 2], [5, 5], 3)).toBe(4.5);
    expect(stripEnd([0, 1, 100], [1, 99], 3)).toBe(12);
    expect(stripEnd([], [], 3)).toBe(4.5);
  });
  it("tells what neither lines nor infill fill", () => {
    const kinds = (["sound", "gap", "heavy", "vanishing", "single_line"] as const).map((kind) => ({ kind }));
    expect(wrongOnes(kinds).map((z) => z.kind)).toEqual(["gap", "vanishing", "single_line"]);
  });
  it("counts a plate on its face in layers, and says why nothing thinner is advised", () => {
    expect(kindWords({ kind: "sound", layers: 6 })).toBe("6 layers, on its face");
    expect(kindWords({ kind: "sound", layers: null })).toBe(WALL_NAMES.sound);
    expect(HELD_BACK.weak?.("0.82")).toContain("reserve 0.82");
    expect(HELD_BACK.loads?.("–")).toContain("Give the loads");
  });
  it("tells what a layer leaves", () => {
    expect(leftIn(0, 0.01)).toBe("lines and infill fill it");
    expect(leftIn(5.7, 0)).toBe("5.70 mm² of slits");
    expect(leftIn(5.7, 2)).toBe("5.70 mm² of slits, 2.00 mm² where no line fits");
  });
  it("says whether a shell is heavier than infill", () => {
    const body = (gained: number) => PLACES.body?.words({ size_mm: 2.08, grams: 4.6, gained_g: gained });
    expect(body(1.2)).toContain("1.2 g more");
    expect(body(-1.2)).toContain("1.2 g less");
    expect(body(1.2)).not.toContain("perimeters");
    const filled = { size_mm: 2.08, grams: 4.6, gained_g: 1.2, perimeters: 5, infill: 0.05, filled_g: -0.6 };
    expect(PLACES.body?.words(filled)).toContain(
      "Or 5 perimeters, 5 % infill, whose lines lie just a clean bridge apart and carry the roof: about 0.6 g less.",
    );
    expect(PLACES.boss?.words({ size_mm: 16, height_mm: 15, share: 0.95, weld_n: 5626 })).toContain("95 % of its foot");
  });
  it("marks a place with a closed body round it", () => {
    const corners = pointer([1, 2, 3], 0.5);
    let volume = 0;
    for (let i = 0; i < corners.length; i += 9) {
      const [ax = 0, ay = 0, az = 0, bx = 0, by = 0, bz = 0, cx = 0, cy = 0, cz = 0] = corners.slice(i, i + 9);
      volume += (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
    }
    expect(volume).toBeCloseTo((4 / 3) * 0.125, 6);
  });
  it("has a dye for every kind, and another where it is lit", () => {
    expect(dyeOf("vanishing", false)).toBe(0);
    expect(dyeOf("heavy", true)).toBe(9);
  });
});

describe("what lies across a place", () => {
  const chord = { from: [0, 0], to: [2, 0], thickness: 2, lines: 4, infill: 0, slit: 0.2, bare: 0 } as const;
  it("names only what is there", () => {
    expect(acrossWords(chord)).toBe("2.00 mm across: 4 lines · 0.20 mm slit");
    expect(acrossWords({ ...chord, lines: 1, slit: 0.01 })).toBe("2.00 mm across: 1 line");
    expect(acrossWords({ ...chord, lines: 0, slit: 0, bare: 2 })).toBe("2.00 mm across: no line · 2.00 mm bare");
  });
});
