import type { Vec3 } from "./vectors";

/** Lambert's equal-area projection of a hemisphere on a unit disc; the lower half is seen from above as well. */
export function project(up: Vec3): { disc: "upper" | "lower"; x: number; y: number } {
  const r = Math.sqrt(Math.max(0, 1 - Math.abs(up[2])));
  const plan = Math.hypot(up[0], up[1]);
  const k = plan > 1e-12 ? r / plan : 0;
  return { disc: up[2] >= -1e-9 ? "upper" : "lower", x: up[0] * k, y: up[1] * k };
}

/** The direction at a place on a disc; null outside its rim. */
export function unproject(disc: "upper" | "lower", x: number, y: number): Vec3 | null {
  const r2 = x * x + y * y;
  if (r2 > 1) return null;
  const z = 1 - r2;
  const plan = Math.sqrt(Math.max(0, 1 - z * z));
  const r = Math.sqrt(r2);
  const k = r > 1e-12 ? plan / r : 0;
  return [x * k, y * k, disc === "upper" ? z : -z];
}

/** Row of the swept direction nearest to `up`. */
export function nearestRow(ups: Float32Array, up: Vec3): number {
  let best = -2;
  let row = 0;
  for (let i = 0, n = ups.length / 3; i < n; i++) {
    const d = (ups[3 * i] ?? 0) * up[0] + (ups[3 * i + 1] ?? 0) * up[1] + (ups[3 * i + 2] ?? 0) * up[2];
    if (d > best) {
      best = d;
      row = i;
    }
  }
  return row;
}

/** Directions blended for one cell, and the angle over which their weight falls to 1/e. */
const NEAR = 6;
const SPREAD_DEG = 3;

/** For every cell of an n × n raster over a disc (rim at the raster's edge plus a margin): rows and weights of the
 * nearest directions. Cells outside the rim take the rim's values, so that contours run cleanly into it. */
export function rasterWeights(
  ups: Float32Array,
  disc: "upper" | "lower",
  n: number,
): { rows: Int32Array; weights: Float32Array } {
  const rows = new Int32Array(NEAR * n * n);
  const weights = new Float32Array(NEAR * n * n);
  const count = ups.length / 3;
  const reach = 1 - Math.cos((SPREAD_DEG * Math.PI) / 180);
  const near = new Int32Array(NEAR);
  const d = new Float64Array(NEAR);
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      let x = ((i + 0.5) / n) * 2 * MARGIN - MARGIN;
      let y = MARGIN - ((j + 0.5) / n) * 2 * MARGIN;
      const r = Math.hypot(x, y);
      if (r > 1) {
        x /= r * 1.0001;
        y /= r * 1.0001;
      }
      const up = unproject(disc, x, y) ?? [0, 0, 1];
      d.fill(-2);
      for (let k = 0; k < count; k++) {
        const v = (ups[3 * k] ?? 0) * up[0] + (ups[3 * k + 1] ?? 0) * up[1] + (ups[3 * k + 2] ?? 0) * up[2];
        let place = NEAR - 1;
        if (v <= (d[place] ?? 0)) continue;
        while (place > 0 && v > (d[place - 1] ?? 0)) {
          d[place] = d[place - 1] ?? 0;
          near[place] = near[place - 1] ?? 0;
          place--;
        }
        d[place] = v;
        near[place] = k;
      }
      const at = NEAR * (j * n + i);
      let sum = 0;
      for (let k = 0; k < NEAR; k++) {
        // 1 − cos grows as the angle's square, so this is a bell round the cell's own direction.
        const w = Math.exp(-(1 - (d[k] ?? 0)) / reach);
        weights[at + k] = w;
        rows[at + k] = near[k] ?? 0;
        sum += w;
      }
      for (let k = 0; k < NEAR; k++) weights[at + k] = (weights[at + k] ?? 0) / sum;
    }
  }
  return { rows, weights };
}

/** The field on the raster that `rasterWeights` describes. */
export function rasterField(
  { rows, weights }: { rows: Int32Array; weights: Float32Array },
  values: readonly number[],
): number[] {
  const grid = new Array<number>(rows.length / NEAR).fill(0);
  for (let i = 0; i < grid.length; i++)
    for (let k = NEAR * i; k < NEAR * (i + 1); k++)
      grid[i] = (grid[i] ?? 0) + (weights[k] ?? 0) * (values[rows[k] ?? 0] ?? 0);
  return grid;
}

/** How far the raster reaches beyond the rim, in radii. */
export const MARGIN = 1.06;

/** What differs by no more than this share of itself is one value: interpolation is not exact. */
const ONE_VALUE = 1e-9;

/** Whether a field says the same of every direction. */
export const isEven = (low: number, high: number): boolean =>
  high - low <= ONE_VALUE * Math.max(Math.abs(low), Math.abs(high));

/** Where the colours of a ramp change between the least and the greatest value; nowhere in an even field. */
export const stepsOf = (low: number, high: number, colours: number): number[] =>
  isEven(low, high) ? [] : Array.from({ length: colours - 1 }, (_, i) => low + ((high - low) * (i + 1)) / colours);
