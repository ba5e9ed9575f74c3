import { describe, expect, it } from "vitest";

import cases from "../../../engine/tests/direction_words.json";
import { clock, figure, hours, measure } from "./figures";
import { COLUMNS, type Measures, verdict } from "./measures";
import { axisWords, typedDirection } from "./needs";
import { isEven, nearestRow, project, rasterField, rasterWeights, stepsOf, unproject } from "./net";
import net from "./net.cases.json";
import { RAMP } from "./ramp";
import {
  type Vec3,
  cross,
  degreesBetween,
  directionWords,
  dot,
  sameDirection,
  unit,
  upright,
  writeDirection,
} from "./vectors";

const directions: Vec3[] = [];
for (let i = 0; i < 400; i++) {
  const z = 1 - (2 * (i + 0.5)) / 400;
  const a = i * 2.399963;
  const r = Math.sqrt(1 - z * z);
  directions.push([r * Math.cos(a), r * Math.sin(a), z]);
}
const packed = Float32Array.from(directions.flat());

describe("the net's projection", () => {
  it.each(net.places)("stands where the printed page draws it: $up", ({ up, disc, x, y }) => {
    const at = project(up as unknown as Vec3);
    expect(at.disc).toBe(disc);
    expect(at.x).toBeCloseTo(x, 8);
    expect(at.y).toBeCloseTo(y, 8);
  });

  it("has the printed page's colours", () => {
    expect(net.ramp).toEqual(RAMP);
  });

  it("comes back to where it went", () => {
    for (const up of directions) {
      const { disc, x, y } = project(up);
      expect(degreesBetween(unproject(disc, x, y) as Vec3, up)).toBeLessThan(1e-4);
    }
  });
  it("keeps areas: the cap within 60° holds half of the upper disc", () => {
    const { x, y } = project([Math.sin(Math.PI / 3), 0, 0.5]);
    expect(x * x + y * y).toBeCloseTo(0.5, 12);
  });
  it("puts the equator on the upper rim and nothing outside", () => {
    expect(project([1, 0, 0])).toEqual({ disc: "upper", x: 1, y: 0 });
    expect(unproject("upper", 0.8, 0.7)).toBeNull();
  });
});

describe("the field on the net", () => {
  it("finds the nearest direction", () => {
    directions.forEach((up, i) => expect(nearestRow(packed, up)).toBe(i));
  });
  it("leaves a constant constant and a smooth field smooth", () => {
    const weights = rasterWeights(packed, "upper", 24);
    for (const v of rasterField(
      weights,
      directions.map(() => 7),
    ))
      expect(v).toBeCloseTo(7, 4);
    const height = rasterField(
      weights,
      directions.map((d) => d[2]),
    );
    const middle = height[12 * 24 + 12] ?? 0;
    expect(middle).toBeGreaterThan(0.97);
    expect(Math.min(...height)).toBeGreaterThan(-0.1);
  });

  it("has no step where every direction says the same, however its interpolation is rounded", () => {
    const even = rasterField(
      rasterWeights(packed, "upper", 24),
      directions.map(() => 3),
    );
    const steps = stepsOf(3, 3, RAMP.length);
    expect(even.filter((v) => steps.some((s) => v >= s))).toEqual([]);
    expect(isEven(3, 3 + 1e-12)).toBe(true);
    expect(isEven(0, 0)).toBe(true);
    expect(isEven(2.9, 3)).toBe(false);
    expect(stepsOf(0, 3, 3)).toEqual([1, 2]);
  });
});

describe("standing a part", () => {
  it("gives a right-handed frame with up as its last row", () => {
    for (const up of directions) {
      const [x, y, z] = upright(up);
      expect(z).toEqual(up);
      expect(dot(cross(x, y), z)).toBeCloseTo(1, 12);
      expect(dot(x, z)).toBeCloseTo(0, 12);
    }
  });
  it("names directions as a person would", () => {
    expect(directionWords([0, 0, 1])).toBe("+z up");
    expect(directionWords([-1, 0, 0])).toBe("−x up");
    expect(directionWords(unit([1, 0, 2]))).toBe("+z tilted 27° to +x");
  });
});

describe("figures", () => {
  it("groups from five digits on, with a true minus and no minus zero", () => {
    expect(figure(12345.6, 1)).toBe("12\u2009345.6");
    expect(figure(1234, 0)).toBe("1234");
    expect(figure(-3.25, 1)).toBe("−3.3");
    expect(figure(-0.04, 1)).toBe("0.0");
    expect(figure(null, 1)).toBe("–");
    expect(figure(Number.NaN, 1)).toBe("–");
  });
  it("shows about three digits", () => {
    expect([0.123, 1.234, 12.34, 123.4, 12345].map(measure)).toEqual(["0.12", "1.23", "12.3", "123", "12\u2009345"]);
  });
  it("writes seconds where they count", () => {
    expect([0, 59.6, 3661].map(clock)).toEqual(["0:00:00", "0:01:00", "1:01:01"]);
    expect(clock(null)).toBe("–");
  });
  it("writes hours", () => {
    expect([0, 59, 3540, 3600, 7325].map(hours)).toEqual(["0:00", "0:01", "0:59", "1:00", "2:02"]);
  });
});

const sound: Measures = {
  needing_area_mm2: 0,
  overhang_area_mm2: 170,
  worst_overhang_deg: 88,
  support_volume_mm3: 1665,
  islands: 0,
  longest_bridge_mm: 8,
  contact_area_mm2: 2721,
  first_layer_mm2: 2721,
  height_mm: 53,
  tipping_deg: 55,
  scar_mm2: 10,
  curl: 3,
  finish_mm: 0.05,
  drag_ratio: 27,
  time_s: 4133,
};

describe("the verdict", () => {
  it("says what stands and holds itself", () => {
    expect(verdict(sound)).toBe("Stands by itself, tips at 55°. 170 mm² overhangs and holds itself.");
  });
  it("says what falls, what begins in mid-air, what drags", () => {
    const bad = { ...sound, tipping_deg: -9, needing_area_mm2: 440, islands: 2, drag_ratio: 0.9 };
    expect(verdict(bad)).toBe(
      "Falls over by itself. 440 mm² needs support (1665 mm³ of it). 2 regions begin in mid-air. The nozzle may drag it off: give it a brim.",
    );
  });
  it("marks the same things in the table", () => {
    const marks = (m: Measures) => COLUMNS.filter((c) => c.fails?.(m)).map((c) => c.key);
    expect(marks(sound)).toEqual([]);
    expect(marks({ ...sound, tipping_deg: 4.9, islands: 1, longest_bridge_mm: 20.5 })).toEqual([
      "islands",
      "longest_bridge_mm",
      "tipping_deg",
    ]);
  });
});

describe("a direction in words", () => {
  it.each(cases as unknown as [Vec3, string][])("%j is said as the printed page says it", (up, words) => {
    expect(directionWords(unit(up))).toBe(words);
  });
});

it("understands typed directions", () => {
  expect(typedDirection("−z")).toEqual([0, 0, -1]);
  expect(typedDirection("0, 3, 4")).toEqual([0, 0.6, 0.8]);
  expect(typedDirection("up")).toBeNull();
  expect(typedDirection("0 0 0")).toBeNull();
  expect(axisWords([0, 0, -1])).toBe("−z");
});

it("writes a direction into an address so that it comes back as the same one", () => {
  for (const up of directions) expect(sameDirection(typedDirection(writeDirection(up)) ?? [0, 0, 0], up)).toBe(true);
  expect(sameDirection([0, 0, 1], unit([0, 0.0016, 1]))).toBe(true);
  expect(sameDirection([0, 0, 1], unit([0, 0.0019, 1]))).toBe(false);
});
