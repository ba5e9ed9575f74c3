/** Walls in whole lines: what the kinds are called, how they are drawn, which zones a stretch of thickness holds. */

import type { Chord } from "./chord";
import { figure, measure } from "./figures";
import { CROWN, CROWN_LIT, LICHEN_LIT, PALE_LICHEN, SAND } from "./palette";

export const WALL_KINDS = ["vanishing", "single_line", "gap", "sound", "heavy"] as const;
export type WallKind = (typeof WALL_KINDS)[number];

export const WALL_NAMES: Readonly<Record<WallKind, string>> = {
  vanishing: "vanishes",
  single_line: "one line",
  gap: "slit between lines",
  sound: "whole lines",
  heavy: "sparse core",
};

export const WALL_WORDS: Readonly<Record<WallKind, string>> = {
  vanishing: "thinner than a line: nothing is drawn there",
  single_line: "a single line: poor, and nothing braces it",
  gap: "between whole numbers of lines: a slit is left that nothing fills well",
  sound: "a whole number of lines",
  heavy: "thicker than its perimeters: the middle is sparse infill",
};

/** Why nothing thinner is advised, in words. */
export const HELD_BACK: Readonly<Record<string, (reserve: string) => string>> = {
  bar: () =>
    "A bar or a block, no wall between two large faces: its depth is what carries, so nothing thinner is advised.",
  loads: () =>
    "It carries a hole, a boss, or what holds the part or presses on it. Give the loads: nothing thinner is advised before.",
  beside: () =>
    "All of it lies beside what holds the part or presses on it, where the sum says nothing: it is left as it is.",
  carries: (reserve) =>
    `It carries: reserve ${reserve} under the written loads, and a thinner one would not keep enough.`,
  weak: (reserve) =>
    `It does not hold as it is: reserve ${reserve} under the written loads. See Strength before its thickness.`,
};

/** A wall's kind in a word or two; a plate that lies on its face is counted in layers. */
export const kindWords = (zone: { kind: WallKind; layers?: number | null }): string =>
  zone.layers && zone.kind === "sound"
    ? `${zone.layers} ${zone.layers === 1 ? "layer" : "layers"}, on its face`
    : WALL_NAMES[zone.kind];

/** Of the part: each kind, and the same lit. */
export const WALL_DYES = [
  CROWN,
  "#b06a12",
  "#d9a032",
  PALE_LICHEN,
  SAND,
  CROWN_LIT,
  "#d9821a",
  "#f5b92f",
  LICHEN_LIT,
  "#8a7a4c",
] as const;

export const dyeOf = (kind: WallKind, lit: boolean): number => WALL_KINDS.indexOf(kind) + (lit ? WALL_KINDS.length : 0);

/** The walls that neither lines nor infill fill. */
export const wrongOnes = <Z extends { kind: WallKind }>(zones: readonly Z[]): Z[] =>
  zones.filter((z) => z.kind !== "sound" && z.kind !== "heavy");

type Numbers = Readonly<Record<string, unknown>>;
const n = (place: Numbers, name: string): number => Number(place[name] ?? 0);

/** “5 perimeters, 5 % infill”: the process that carries a lump's roof without hollowing it; null where it has it. */
export const sparseFilling = (place: Numbers): string | null =>
  place.infill === null || place.infill === undefined
    ? null
    : `${n(place, "perimeters")} perimeters, ${figure(100 * n(place, "infill"), 0)} % infill`;

const byGrams = (grams: number): string => `about ${figure(Math.abs(grams), 1)} g ${grams > 0 ? "more" : "less"}`;

function orSparse(place: Numbers): string {
  const filling = sparseFilling(place);
  return filling
    ? ` Or ${filling}, whose lines lie just a clean bridge apart and carry the roof: ${byGrams(n(place, "filled_g"))}.`
    : "";
}

/** What is seen at a place that wants sizing, in words with its numbers; and what is done about it. */
export const PLACES: Readonly<
  Record<string, { name: string; line: (p: Numbers) => string; words: (p: Numbers) => string; cure: string }>
> = {
  boss: {
    name: "boss or post on infill",
    line: (p) => `pulls out at ${measure(n(p, "pull_n"))} N`,
    words: (p) =>
      `${figure(n(p, "size_mm"), 1)} mm wide, ${figure(n(p, "height_mm"), 1)} mm high; ${figure(100 * n(p, "share"), 0)} % of its foot lies over sparse infill. Carried down to the base, its own weld would hold ${measure(n(p, "weld_n"))} N. An estimate for a straight, even pull.`,
    cure: "carry it down",
  },
  bore: {
    name: "thin round a hole",
    line: (p) => `${figure(n(p, "wall_mm"), 2)} mm of wall`,
    words: (p) =>
      `⌀ ${figure(n(p, "size_mm"), 2)} mm; a screw wants ${figure(n(p, "wanted_mm"), 2)} mm round it: half its diameter, four lines at least.`,
    cure: "put a collar round it",
  },
  corner: {
    name: "sharp internal corner",
    line: (p) => `${figure(n(p, "size_mm"), 1)} mm long`,
    words: (p) =>
      `The faces turn by ${figure(n(p, "turn_deg"), 0)}°. Cracks start here; a radius of 1 mm at least, or a quarter of the wall, stops them.`,
    cure: "round it",
  },
  body: {
    name: "lump",
    line: (p) => `${measure(n(p, "inside_mm3") / 1000)} cm³ inside`,
    words: (p) =>
      `That much lies deeper than a wall of ${figure(n(p, "size_mm"), 2)} mm, filled with ${figure(n(p, "grams"), 1)} g of infill. As a shell it prints with walls alone: ${byGrams(n(p, "gained_g"))}, and what carries its roof.${orSparse(p)}`,
    cure: "hollow it",
  },
};

interface Spread {
  least_mm: number;
  most_mm: number;
}

/** mm by which a reading may stand beside its bar: the histogram's own are as wide. */
const BESIDE = 0.01;

/** Numbers of the zones that hold a thickness between two. */
export const zonesBetween = (zones: readonly Spread[], low: number, high: number): number[] =>
  zones.flatMap((z, i) => (z.least_mm < high + BESIDE && z.most_mm >= low - BESIDE ? [i] : []));

/** mm up to which a strip of thicknesses is drawn: past the sparse core's beginning, as far as there is something to see. */
export function stripEnd(edges: readonly number[], areas: readonly number[], heavy: number): number {
  const all = areas.reduce((a, v) => a + v, 0);
  let seen = 0;
  for (let i = 0; i < areas.length; i++) {
    seen += areas[i] ?? 0;
    if (seen >= 0.98 * all) return Math.min(Math.max(1.5 * heavy, (edges[i + 1] ?? 0) * 1.05), 4 * heavy);
  }
  return 1.5 * heavy;
}

/** The same areas in `count` bars up to `end`; what is thicker stands in the last. */
export function rebinned(edges: readonly number[], areas: readonly number[], end: number, count: number): number[] {
  const out = new Array<number>(count).fill(0);
  areas.forEach((area, i) => {
    const middle = ((edges[i] ?? 0) + (edges[i + 1] ?? 0)) / 2;
    const at = Math.min(count - 1, Math.floor((middle / end) * count));
    out[at] = (out[at] ?? 0) + area;
  });
  return out;
}

/** What a layer leaves, in words. */
export function leftIn(slit: number, bare: number): string {
  if (slit < 0.05 && bare < 0.05) return "lines and infill fill it";
  return [slit >= 0.05 && `${measure(slit)} mm² of slits`, bare >= 0.05 && `${measure(bare)} mm² where no line fits`]
    .filter(Boolean)
    .join(", ");
}

/** What lies across one place of a layer, in words. */
export function acrossWords(chord: Chord): string {
  const lines = chord.lines === 0 ? "no line" : chord.lines === 1 ? "1 line" : `${chord.lines} lines`;
  const rest = (
    [
      [chord.infill, "infill"],
      [chord.slit, "slit"],
      [chord.bare, "bare"],
    ] as const
  ).flatMap(([mm, what]) => (mm >= 0.02 ? [`${figure(mm, 2)} mm ${what}`] : []));
  return [`${figure(chord.thickness, 2)} mm across: ${lines}`, ...rest].join(" · ");
}
