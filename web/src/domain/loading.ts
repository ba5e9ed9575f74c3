/** Loads and held faces as they are written into a job. */
import { freeColour, newId, axisWords } from "./needs";
import { type Vec3, scaled, toVec3 } from "./vectors";

interface Held {
  held: readonly unknown[];
}

interface Case {
  id: string;
  name: string;
  loads: readonly unknown[];
}

export interface NewLoad {
  kind: string;
  on: string | null;
  amount: string;
  direction: Vec3 | null;
  /** How the direction was given; empty where it follows from the face. */
  words: string;
}

/** The loads with one more face that holds the part, fixed until somebody says otherwise. */
export const heldOn = <L extends Held>(loads: L, on: string) => ({
  ...loads,
  held: [...loads.held, { id: newId(), on, how: "fixed", axes: "xyz", washer: null }],
});

/** The loads with one more, in the case named or in a new one that is called `name`. */
export function loadedBy<L extends { cases: readonly Case[] }>(
  loads: L,
  load: NewLoad,
  into: string | null,
  name: string,
  fresh = newId(),
) {
  const row = {
    id: newId(),
    kind: load.kind,
    on: load.on,
    amount: load.amount,
    direction: load.direction,
    direction_words: load.words,
  };
  const there = loads.cases.some((c) => c.id === into);
  const cases = there
    ? loads.cases.map((c) => (c.id === into ? { ...c, loads: [...c.loads, row] } : c))
    : [...loads.cases, { id: fresh, name: name || nextName(loads.cases.map((c) => c.name)), loads: [row] }];
  return { ...loads, cases };
}

export function nextName(taken: readonly string[]): string {
  for (let i = taken.length + 1; ; i++) if (!taken.includes(`case ${i}`)) return `case ${i}`;
}

interface Face {
  kind: string;
  called: string;
  axis?: readonly number[] | null | undefined;
  shape: unknown;
}

/** A shape with its keys in one order: one that comes out of the database has them in another than one just pointed at. */
const inOrder = (shape: unknown): string =>
  JSON.stringify(shape, (_, value: unknown) =>
    value && typeof value === "object" && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );

/** Whether two are one face of the part. */
export const sameFace = (a: Pick<Face, "shape">, b: Pick<Face, "shape">): boolean =>
  inOrder(a.shape) === inOrder(b.shape);

/** A face of the part among those that have a name: its id, and the list with it. */
export function named<R extends { id: string; name: string; colour: number; shape: unknown }>(
  rows: readonly R[],
  face: Face,
  name = faceName(face, rows),
): { id: string; rows: (R | { id: string; name: string; colour: number; shape: unknown })[] } {
  const known = rows.find((r) => sameFace(r, face));
  if (known) return { id: known.id, rows: rows.map((r) => (r === known ? { ...r, name: name || r.name } : r)) };
  const id = newId();
  return { id, rows: [...rows, { id, name, colour: freeColour(rows), shape: face.shape }] };
}

/** What a face is called until somebody calls it otherwise. */
export function faceName(face: Face, rows: readonly { name: string; shape: unknown }[]): string {
  const known = rows.find((r) => sameFace(r, face));
  if (known) return known.name;
  const base = face.kind === "flat" && face.axis ? `flat ${axisWords(toVec3(face.axis))}` : face.called;
  const taken = new Set(rows.map((r) => r.name));
  for (let i = 1; ; i++) {
    const name = i === 1 ? base : `${base}, no. ${i}`;
    if (!taken.has(name)) return name;
  }
}

export const WAYS = ["into the face", "out of the face", "+x", "−x", "+y", "−y", "+z", "−z"] as const;
export type Way = (typeof WAYS)[number];

const AXES: Readonly<Record<string, Vec3>> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** Ways that a load can act on a face: along its normal only where it has one. */
export const waysOn = (face: Pick<Face, "kind" | "axis">): readonly Way[] =>
  face.kind === "flat" && face.axis ? WAYS : WAYS.slice(2);

export function wayOf(way: Way, face: Pick<Face, "axis">): Vec3 {
  const axis = AXES[way.slice(1)];
  if (axis) return way.startsWith("−") ? scaled(axis, -1) : axis;
  const normal = toVec3(face.axis ?? [0, 0, 1]);
  return way === "into the face" ? scaled(normal, -1) : normal;
}
