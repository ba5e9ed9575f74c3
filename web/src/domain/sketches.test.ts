import { expect, test } from "vitest";

import { SKETCHES } from "./sketches";

test("every sketch stays on its sheet and names each size once", () => {
  expect(Object.keys(SKETCHES).length).toBeGreaterThan(20);
  for (const [key, sketch] of Object.entries(SKETCHES)) {
    const points = [
      ...sketch.bodies.flatMap((b) => b.points),
      ...sketch.sizes.flatMap(([a, b]) => [a, b]),
      ...(sketch.forces ?? []).flatMap(([a, b]) => [a, b]),
      ...(sketch.rounds ?? []).flatMap((r) => [
        [r.at[0] - r.radius, r.at[1] - r.radius] as const,
        [r.at[0] + r.radius, r.at[1] + r.radius] as const,
      ]),
    ];
    for (const [x, y] of points) expect(x >= 0 && x <= 220 && y >= 0 && y <= 130, `${key} ${x} ${y}`).toBe(true);
    const names = sketch.sizes.map(([, , name]) => name);
    expect(new Set(names).size, key).toBe(names.length);
  }
});
