/** Directions are unit vectors in the part's own frame. */
export type Vec3 = readonly [number, number, number];

export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

export const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

export const unit = (a: Vec3): Vec3 => {
  const l = Math.hypot(...a);
  return [a[0] / l, a[1] / l, a[2] / l];
};

export const scaled = (a: Vec3, by: number): Vec3 => [a[0] * by, a[1] * by, a[2] * by];

export const toVec3 = (a: readonly number[]): Vec3 => [a[0] ?? 0, a[1] ?? 0, a[2] ?? 0];

/** Rows of the rotation that stands the part with `up` vertical; the same rule as the engine's `upright`. */
export function upright(up: Vec3): [Vec3, Vec3, Vec3] {
  const guide: Vec3 = Math.abs(up[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0];
  const g = dot(guide, up);
  const x = unit([guide[0] - up[0] * g, guide[1] - up[1] * g, guide[2] - up[2] * g]);
  return [x, cross(up, x), up];
}

/** A direction turned by `degrees` about an axis (Rodrigues). */
export function turned(v: Vec3, axis: Vec3, degrees: number): Vec3 {
  const a = (degrees * Math.PI) / 180;
  const [along, across] = [dot(v, axis) * (1 - Math.cos(a)), cross(axis, v)];
  return unit(
    [0, 1, 2].map(
      (k) => (v[k] ?? 0) * Math.cos(a) + (across[k] ?? 0) * Math.sin(a) + (axis[k] ?? 0) * along,
    ) as unknown as Vec3,
  );
}

export const degreesBetween = (a: Vec3, b: Vec3): number =>
  (Math.acos(Math.min(1, Math.max(-1, dot(a, b)))) * 180) / Math.PI;

/** Directions no further apart than this are one, as the server has it. */
const SAME_DEG = 0.1;

export const sameDirection = (a: readonly number[], b: readonly number[]): boolean =>
  degreesBetween(toVec3(a), toVec3(b)) <= SAME_DEG;

/** A direction as it stands in an address; `typedDirection` reads it. */
export const writeDirection = (up: readonly number[]): string => up.map((v) => v.toFixed(6)).join(",");

const AXES: readonly { name: string; v: Vec3 }[] = [
  { name: "+x", v: [1, 0, 0] },
  { name: "−x", v: [-1, 0, 0] },
  { name: "+y", v: [0, 1, 0] },
  { name: "−y", v: [0, -1, 0] },
  { name: "+z", v: [0, 0, 1] },
  { name: "−z", v: [0, 0, -1] },
];

/** How an engineer would say it: “+z up”, “+z tilted 32° to −x”. */
export function directionWords(up: Vec3): string {
  const order = [...AXES].sort((a, b) => dot(b.v, up) - dot(a.v, up));
  const [first, second] = order;
  if (!first || !second) return "";
  const tilt = degreesBetween(first.v, up);
  if (tilt < 0.5) return `${first.name} up`;
  return `${first.name} tilted ${tilt.toFixed(0)}° to ${second.name}`;
}
