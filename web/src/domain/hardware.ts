/** Words and fresh rows of hardware. */
import { figure } from "./figures";
import { type Vec3, degreesBetween, dot, scaled } from "./vectors";

export const KINDS = [
  ["bolt", "bolt"],
  ["rod", "rod, glued in"],
  ["insert", "insert, set with heat"],
  ["key", "key"],
  ["boss", "screw boss"],
  ["pad", "metal pad"],
] as const;
export type Kind = (typeof KINDS)[number][0];

export const kindWords = (kind: string): string => KINDS.find(([k]) => k === kind)?.[1] ?? kind;

/** The size that a fresh row begins with. */
export const FIRST_SIZE: Readonly<Record<Kind, string>> = {
  bolt: "M4",
  rod: "M6",
  insert: "M4",
  key: "5x5",
  boss: "M4",
  pad: "10",
};

export const HEADS = [
  ["socket", "socket head"],
  ["hex", "hexagon head"],
  ["button", "button head"],
  ["rod", "threaded rod, nuts at both ends"],
] as const;
export const WASHERS = [
  ["none", "no washer"],
  ["washer", "washer"],
  ["washer_large", "large washer"],
] as const;
export const NUTS = [
  ["square_nut_thin", "thin square nut"],
  ["square_nut", "square nut"],
  ["hex_nut", "hexagon nut"],
  ["hex_nut_old", "hexagon nut, older widths"],
] as const;
export const POCKETS = [
  ["open", "pocket open to the face"],
  ["closed", "closed pocket, at a pause"],
  ["face", "nut on the face"],
] as const;
export const STEELS = ["8.8", "10.9", "A2-50", "A2-70", "4.8"] as const;

/** Degrees within which a face looks along the build direction, so that an axis on it is taken to mean that. */
const NEARLY = 20;

/** The axis into the part at a face: along the build direction where the face nearly looks that way, else square to it. */
export function axisInto(normal: Vec3, up: Vec3): Vec3 {
  const inward = scaled(normal, -1);
  const along = scaled(up, dot(inward, up) >= 0 ? 1 : -1);
  return degreesBetween(inward, along) < NEARLY ? along : inward;
}

/** A torque as a wrench is set: N·m in two or three figures. */
export const torqueWords = (nmm: number | null | undefined): string =>
  nmm === null || nmm === undefined ? "–" : `${figure(nmm / 1000, nmm < 1000 ? 2 : 1)} N·m`;

/** Three numbers as people type them; null where they are none. */
export function threeNumbers(text: string): [number, number, number] | null {
  const rows = text
    .replaceAll("−", "-")
    .trim()
    .split(/[\s,;]+/)
    .map(Number);
  const [x, y, z] = rows;
  return rows.length === 3 && rows.every(Number.isFinite) && x !== undefined && y !== undefined && z !== undefined
    ? [x, y, z]
    : null;
}
