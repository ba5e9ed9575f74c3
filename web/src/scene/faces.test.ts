import { BoxGeometry, BufferGeometry } from "three";
import { describe, expect, it } from "vitest";

import { facesOf, measured, nextFace, thicknessAt } from "./faces";
import type { Shape } from "./shape";

/** A block of 20 × 10 × 5 whose six sides are its faces. */
function block(): Shape {
  const geometry = new BoxGeometry(20, 10, 5).toNonIndexed();
  const face = Int32Array.from({ length: 12 }, (_, f) => Math.floor(f / 2));
  return {
    geometry,
    edges: new BufferGeometry(),
    features: new Int16Array(12),
    face,
    wide: face,
    centre: [0, 0, 0],
    radius: 12,
  };
}

describe("faces by key", () => {
  const faces = facesOf(block());

  it("counts each once, the largest first, at a place that is on it", () => {
    expect(faces.map((f) => Math.round(f.area))).toEqual([200, 200, 100, 100, 50, 50]);
    for (const f of faces) {
      const away = f.point[0] * f.normal[0] + f.point[1] * f.normal[1] + f.point[2] * f.normal[2];
      expect([10, 5, 2.5]).toContain(Number(away.toFixed(6)));
    }
  });

  it("goes round both ways, and over those that fit alone", () => {
    const first = faces[0]?.face ?? -1;
    expect(nextFace(faces, null, 1)?.face).toBe(first);
    expect(nextFace(faces, first, -1)?.face).toBe(faces[5]?.face);
    expect(nextFace(faces, first, 1, (f) => f.area < 60)?.face).toBe(faces[4]?.face);
    expect(nextFace(faces, first, 1, () => false)).toBeNull();
  });
});

describe("measuring", () => {
  it("says how far, how turned, and how thick", () => {
    const top = { point: [3, 1, 2.5] as const, normal: [0, 0, 1] as const };
    const bottom = { point: [3, 5, -2.5] as const, normal: [0, 0, -1] as const };
    expect(measured(top, bottom)).toMatchObject({ along: [0, 4, -5], angle: 0, between: 5 });
    expect(measured(top, bottom).distance).toBeCloseTo(Math.sqrt(41));
    const side = { point: [10, 0, 0] as const, normal: [1, 0, 0] as const };
    expect(measured(top, side).angle).toBeCloseTo(90);
    expect(measured(top, side).between).toBeNull();
    expect(thicknessAt(block(), [3, 1, 2.5], [0, 0, 1])).toBeCloseTo(5, 3);
  });
});
