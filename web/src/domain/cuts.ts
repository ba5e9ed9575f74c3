/** A plane through a part, as the page holds it: which way it looks, and how far along that way it lies. */
import { type Vec3, dot, scaled, unit, upright } from "./vectors";

export interface Cut {
  normal: Vec3;
  /** mm along the normal from the part's own origin. */
  at: number;
}

export const AXES: Readonly<Record<"x" | "y" | "z", Vec3>> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

export const pointOf = (cut: Cut): Vec3 => scaled(cut.normal, cut.at);

/** The cut in the face that a point and its normal lie in. */
export const cutThrough = (point: Vec3, normal: Vec3): Cut => {
  const n = unit(normal);
  return { normal: n, at: dot(n, point) };
};

/** From where to where (mm) points reach along a way. */
export function reachAlong(points: ArrayLike<number>, way: Vec3): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < points.length; i += 3) {
    const d = (points[i] ?? 0) * way[0] + (points[i + 1] ?? 0) * way[1] + (points[i + 2] ?? 0) * way[2];
    low = Math.min(low, d);
    high = Math.max(high, d);
  }
  return [low, high];
}

/** Two triangles of a square in the cut, round the foot of `centre` on it. */
export function sheet(cut: Cut, centre: Vec3, size: number): Float32Array {
  const [side, up, n] = upright(cut.normal);
  const off = cut.at - dot(n, centre);
  const corner = (a: number, b: number) =>
    [0, 1, 2].map((k) => (centre[k] ?? 0) + off * (n[k] ?? 0) + size * (a * (side[k] ?? 0) + b * (up[k] ?? 0)));
  return new Float32Array(
    [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, -1), corner(1, 1), corner(-1, 1)].flat(),
  );
}
