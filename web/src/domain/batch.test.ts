import { describe, expect, it } from "vitest";

import { failing, longTime, nearest, pathOf, placed, stageOf, stepFor, turnedAbout } from "./batch";

describe("a plate of copies", () => {
  it("turns a copy about the middle of its outline", () => {
    const middle = [10, 5] as const;
    for (const by of [15, 90, 180, -90]) {
      const before = [30, 40, 45] as const;
      const after = turnedAbout(before, middle, by);
      const [a, b] = [placed(before, middle), placed(after, middle)];
      expect(b[0]).toBeCloseTo(a[0], 9);
      expect(b[1]).toBeCloseTo(a[1], 9);
      expect(after[2]).toBe((45 + by + 360) % 360);
    }
  });

  it("places a point as the engine does: anticlockwise about the origin, then moved", () => {
    expect(placed([100, 50, 90], [10, 0])[0]).toBeCloseTo(100, 9);
    expect(placed([100, 50, 90], [10, 0])[1]).toBeCloseTo(60, 9);
  });

  it("draws every loop", () => {
    expect(
      pathOf([
        [
          [
            [0, 0],
            [4, 0],
            [0, 3],
          ],
          [
            [1, 1],
            [2, 1],
            [1, 2],
          ],
        ],
      ]),
    ).toBe("M0 0L4 0L0 3ZM1 1L2 1L1 2Z");
  });

  it("knows what is finished, printed and waiting", () => {
    expect([0, 1, 2].map((n) => stageOf(n, 1))).toEqual(["finished", "printing", "waiting"]);
  });

  it("finds where the band falls short", () => {
    expect(failing([1.2, 0.9, 0.8, null, 1.1, 0.99])).toEqual([
      [1, 2],
      [5, 5],
    ]);
    expect(failing([null, null])).toEqual([]);
  });

  it("finds the number that is shown", () => {
    expect(nearest([1, 2, 3, 6, 12], 7)).toBe(3);
    expect(nearest([1, 2, 3], 90)).toBe(2);
    expect(nearest([], 4)).toBe(0);
  });

  it("writes long times and round steps", () => {
    expect(longTime(3 * 3600 + 600)).toBe("3:10 h");
    expect(longTime(90_000)).toBe("1 d 1:00 h");
    expect([stepFor(44, 8), stepFor(7, 8), stepFor(3.2, 3)]).toEqual([10, 1, 2]);
  });
});
