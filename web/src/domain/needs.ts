/** Words for what a part must do, and small sums about directions that the page shows while somebody types. */
import { figure } from "./figures";
import { type Vec3, directionWords, unit } from "./vectors";

interface Loaded {
  job: { loads: { cases: readonly { loads: readonly unknown[] }[]; held: readonly unknown[] } };
}

/** Whether something pushes or pulls, and something holds: then strength can be calculated. */
export const isLoaded = (part: Loaded): boolean =>
  part.job.loads.held.length > 0 && part.job.loads.cases.some((c) => c.loads.length > 0);

export const REQUIREMENT_KINDS = [
  ["load", "load"],
  ["environment", "environment"],
  ["interface", "interface"],
  ["appearance", "appearance"],
  ["hardware", "hardware"],
  ["life", "life"],
] as const;

export const USES = [
  ["ordinary", "ordinary"],
  ["functional", "functional"],
  ["injury", "could injure somebody"],
] as const;

export const POLICIES = [
  ["none", "no support at all"],
  ["designed", "designed into the model only"],
  ["allowed", "generated support allowed"],
  ["dissolving", "dissolving support"],
] as const;

export const BREAKS = [
  ["between layers", "splits between layers"],
  ["across lines", "breaks across the lines"],
  ["bends too far", "bends too far"],
  ["pulls out", "pulls out"],
  ["wears", "wears or is crushed"],
  ["creeps", "creeps"],
  ["other", "otherwise"],
] as const;

export const HOWS = [
  ["fixed", "fixed"],
  ["sliding", "sliding along it"],
  ["pinned", "pinned"],
  ["bolted", "bolted, washer"],
  ["pressed", "only pressed"],
] as const;

export const NATURES = [
  ["static", "static"],
  ["sustained", "sustained"],
  ["cyclic", "cyclic"],
  ["shock", "shock"],
] as const;

export const LOAD_KINDS = [
  ["force", "force"],
  ["moment", "moment"],
  ["pressure", "pressure"],
  ["weight", "own weight"],
] as const;

export const EXAMPLE: Record<string, string> = { force: "12 kgf", moment: "3 N·m", pressure: "0.2 MPa", weight: "1 g" };

export const DUTIES = [
  ["no_scar", "not to be scarred"],
  ["seen", "seen"],
  ["sealing", "sealing"],
  ["mating", "mating"],
  ["inside_corner", "inside corner clears a mate"],
  ["no_bruise", "must not bruise the mate"],
] as const;

export const FITS = [
  ["", "no fit"],
  ["press", "press fit"],
  ["location", "location fit"],
  ["sliding", "sliding fit"],
  ["free", "free fit"],
  ["in_place", "printed in place"],
] as const;

export const PROOFS = [
  ["calculation", "calculation"],
  ["inspection", "inspection"],
  ["trial", "trial"],
  ["drawing", "drawing"],
] as const;

export const wordsOf = (list: readonly (readonly [string, string])[], key: string | null | undefined): string =>
  list.find(([k]) => k === key)?.[1] ?? key ?? "";

/** “−z” or “0.71 0 0.71”: a direction in few words. */
export function axisWords(v: Vec3): string {
  const words = directionWords(v);
  return words.endsWith(" up") ? words.replace(" up", "") : v.map((x) => figure(x, 2)).join(" ");
}

/** A direction somebody typed: three numbers, or ±x, ±y, ±z; null where it is none. */
export function typedDirection(text: string): Vec3 | null {
  const plain = text.trim().replaceAll("−", "-").toLowerCase();
  const named = /^([+-]?)([xyz])$/.exec(plain);
  if (named) {
    const size = named[1] === "-" ? -1 : 1;
    return [named[2] === "x" ? size : 0, named[2] === "y" ? size : 0, named[2] === "z" ? size : 0];
  }
  const numbers = plain.split(/[\s,;]+/).map(Number);
  if (numbers.length !== 3 || numbers.some((n) => !Number.isFinite(n)) || numbers.every((n) => n === 0)) return null;
  return unit([numbers[0] ?? 0, numbers[1] ?? 0, numbers[2] ?? 0]);
}

export const newId = (): string => crypto.randomUUID().slice(0, 13);

export const size3 = (v: readonly number[]): number => Math.hypot(...v);

/** A colour that no named face has yet. */
export function freeColour(regions: readonly { colour: number }[]): number {
  const used = regions.map((r) => r.colour);
  return [0, 1, 2, 3, 4, 5, 6, 7].find((c) => !used.includes(c)) ?? used.length % 8;
}
