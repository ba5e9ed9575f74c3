/** Fits in words: what a face is as a measure, and how it comes out. */
import { figure } from "./figures";

const KINDS: Record<string, string> = {
  bore: "bore ⌀",
  pin: "pin ⌀",
  slot: "gap",
  tongue: "width",
  height: "height",
  flat: "flat",
  corner: "inside corner",
  other: "face",
};

export const kindOfMeasure = (kind: string): string => KINDS[kind] ?? kind;

/** What a fit comes to in one word; a failing one is drawn in red. */
export const VERDICTS: Record<string, { word: string; fails: boolean }> = {
  fits: { word: "fits", fails: false },
  tight: { word: "too tight", fails: true },
  loose: { word: "too loose", fails: true },
  true: { word: "true to size", fails: false },
  off: { word: "off size", fails: true },
  unknown: { word: "no size", fails: false },
};

/** A length with its sign: what a clearance is, or a change. */
export const signed = (mm: number | null | undefined, digits = 2): string =>
  mm === null || mm === undefined ? "–" : `${mm > 0 ? "+" : ""}${figure(mm, digits)}`;
