import { describe, expect, it } from "vitest";

import { AXES, cutThrough, pointOf, reachAlong, sheet } from "./cuts";
import { type Vec3, degreesBetween, dot, turned } from "./vectors";

describe("a cut", () => {
  it("laid in a face holds the point that was pressed on", () => {
    const cut = cutThrough([3, -4, 12], [0, 0, 2]);
    expect(cut.normal).toEqual([0, 0, 1]);
    expect(cut.at).toBeCloseTo(12);
    expect(pointOf(cut)).toEqual([0, 0, 12]);
  });

  it("knows how far a part reaches along any way", () => {
    const corners = [0, 0, 0, 10, 0, 0, 10, 20, 30];
    expect(reachAlong(corners, AXES.z)).toEqual([0, 30]);
    const slant: Vec3 = [Math.SQRT1_2, Math.SQRT1_2, 0];
    expect(reachAlong(corners, slant)[1]).toBeCloseTo(30 * Math.SQRT1_2);
  });

  it("is drawn as a square that lies in it, over the middle of the part", () => {
    const cut = cutThrough([1, 2, 3], [1, 1, 1]);
    const corners = sheet(cut, [5, 5, 5], 10);
    expect(corners.length).toBe(18);
    for (let i = 0; i < 18; i += 3) {
      const p: Vec3 = [corners[i] ?? 0, corners[i + 1] ?? 0, corners[i + 2] ?? 0];
      expect(dot(p, cut.normal)).toBeCloseTo(cut.at, 4);
      expect(Math.hypot(p[0] - 2, p[1] - 2, p[2] - 2)).toBeCloseTo(10 * Math.SQRT2, 4);
    }
  });
});

describe("a direction turned by a small angle", () => {
  it("turns by that much, about the axis", () => {
    const up = turned([0, 0, 1], [1, 0, 0], 5);
    expect(degreesBetween(up, [0, 0, 1])).toBeCloseTo(5);
    expect(up[0]).toBeCloseTo(0);
    expect(up[1]).toBeLessThan(0);
  });

  it("stays where it is about itself", () => {
    expect(turned([0, 0, 1], [0, 0, 1], 30)[2]).toBeCloseTo(1);
  });
});
