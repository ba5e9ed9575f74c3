/** The one list of measures: what each is called, its unit, how it is written, and what it means. */
import type { NumberKey } from "./explained";
import { figure, hours, measure } from "./figures";
import { PLENTY, reserve } from "./strength";

export type FieldKey =
  "finish_mm" | "overhang_area_mm2" | "support_volume_mm3" | "scar_mm2" | "worst_overhang_deg" | "height_mm";

export interface Field {
  key: FieldKey;
  tab: string;
  unit: string;
  sentence: string;
}

/** What the sweep knows of every direction and what changes smoothly over the sphere, so that it can be contoured. */
export const FIELDS: readonly Field[] = [
  { key: "overhang_area_mm2", tab: "overhang", unit: "mm²", sentence: "area of facets beyond the limit angle" },
  {
    key: "support_volume_mm3",
    tab: "support",
    unit: "mm³",
    sentence: "space under them, down to the plate or the part",
  },
  { key: "scar_mm2", tab: "scar", unit: "mm²", sentence: "area that support would touch" },
  { key: "worst_overhang_deg", tab: "steepest", unit: "°", sentence: "steepest facet, from the vertical" },
  { key: "finish_mm", tab: "stair", unit: "mm", sentence: "mean height of the steps on sloping faces" },
  { key: "height_mm", tab: "height", unit: "mm", sentence: "height above the plate" },
];

export type DutyKey = "protected_scar_mm2" | "protected_plate_mm2" | "bores_lying";

/** What the job's duties say of every direction; there only where the job has such a duty. */
export const DUTY_FIELDS: readonly (Omit<Field, "key"> & { key: DutyKey })[] = [
  { key: "protected_scar_mm2", tab: "faces", unit: "mm²", sentence: "protected face that support would scar" },
  { key: "protected_plate_mm2", tab: "plate", unit: "mm²", sentence: "protected face that takes the plate's texture" },
  { key: "bores_lying", tab: "bores", unit: "lying", sentence: "bores with a fit whose roof overhangs" },
];

export const RESERVE = {
  key: "reserve",
  tab: "reserve",
  unit: "",
  sentence: "least reserve over all load cases, knock-downs and required factor in it",
} as const;

export const ARMS = {
  key: "arms",
  tab: "arms",
  unit: "",
  sentence: "least reserve of what bends, as its layers would lie",
} as const;

export interface Measures {
  reserve?: number | null;
  /** The band of the reserve: what finer cubes and the ranges of the strengths leave open. */
  reserve_low?: number | null;
  reserve_high?: number | null;
  /** Whether finer cubes may bring the reserve below 1. */
  doubtful?: boolean;
  weakest_case?: string | null;
  protected_scar_mm2?: number | null;
  protected_plate_mm2?: number | null;
  bores_lying?: number | null;
  needing_area_mm2: number;
  overhang_area_mm2: number;
  worst_overhang_deg: number;
  support_volume_mm3: number;
  islands: number | null;
  longest_bridge_mm: number | null;
  contact_area_mm2: number;
  first_layer_mm2: number | null;
  height_mm: number;
  tipping_deg: number;
  drag_ratio: number;
  scar_mm2: number;
  curl: number;
  finish_mm: number;
  time_s: number | null;
}

type MeasureKey = Exclude<keyof Measures, "weakest_case" | "reserve_low" | "reserve_high" | "doubtful">;

export interface Column {
  key: MeasureKey;
  /** The explanation that stands for it. */
  of?: NumberKey;
  head: string;
  unit: string;
  long: string;
  write: (m: Measures) => string;
  fails?: (m: Measures) => boolean;
  doubtful?: (m: Measures) => boolean;
}

export const STANDS_DEG = 5;
export const DRAG_ENOUGH = 2;
export const BRIDGE_CLEAN_MM = 10;
export const BRIDGE_ROUGH_MM = 20;

const RESERVE_COLUMN: Column = {
  key: "reserve",
  of: "reserve",
  head: "reserve",
  unit: "",
  long: "least reserve over all load cases",
  write: (m) => reserve(m.reserve),
  fails: (m) => typeof m.reserve === "number" && m.reserve < 1,
  doubtful: (m) => m.doubtful === true,
};

/** How such words are set. */
export const HOLDING_TONES = {
  fails: "font-semibold text-crown",
  doubtful: "text-ochre",
  holds: "",
  unknown: "text-second",
} as const;

/** Whether a direction holds the job's loads, in words; null where there are none. `coarse`: by the first answer only. */
export function holding(
  m: Measures,
  loaded: boolean,
  coarse: boolean,
): { words: string; state: "fails" | "doubtful" | "holds" | "unknown" } | null {
  if (!loaded) return null;
  if (typeof m.reserve !== "number") return { words: "Strength not yet checked.", state: "unknown" };
  const band =
    typeof m.reserve_low === "number" && typeof m.reserve_high === "number"
      ? ` (${reserve(m.reserve_low)}…${reserve(m.reserve_high)}${coarse ? ", coarse" : ""})`
      : "";
  const draft = `reserve ${reserve(m.reserve)}${band}`;
  if (m.reserve < 1) return { words: `Fails under ${m.weakest_case ?? "its loads"}, ${draft}.`, state: "fails" };
  if (m.doubtful) return { words: `May fail under ${m.weakest_case ?? "its loads"}, ${draft}.`, state: "doubtful" };
  return {
    words: `Holds its loads, ${draft}${m.reserve >= PLENTY ? "" : ` under ${m.weakest_case ?? ""}`}.`,
    state: "holds",
  };
}

/** The columns of the table: the reserve comes first where loads have been checked. */
export const columnsFor = (all: readonly Measures[]): readonly Column[] =>
  all.some((m) => typeof m.reserve === "number")
    ? [RESERVE_COLUMN, ...COLUMNS.filter((c) => c.key !== "first_layer_mm2")]
    : COLUMNS;

export const COLUMNS: readonly Column[] = [
  {
    key: "needing_area_mm2",
    of: "needs_support",
    head: "needs support",
    unit: "mm²",
    long: "unsupported area, by layers",
    write: (m) => measure(m.needing_area_mm2),
    doubtful: (m) => m.needing_area_mm2 > 0.5,
  },
  {
    key: "overhang_area_mm2",
    of: "overhang",
    head: "overhang",
    unit: "mm²",
    long: "overhang area",
    write: (m) => measure(m.overhang_area_mm2),
  },
  {
    key: "islands",
    head: "islands",
    unit: "",
    long: "begins in mid-air",
    write: (m) => (m.islands === null ? "–" : String(m.islands)),
    fails: (m) => (m.islands ?? 0) > 0,
  },
  {
    key: "longest_bridge_mm",
    of: "bridge",
    head: "bridge",
    unit: "mm",
    long: "longest bridge",
    write: (m) => (m.longest_bridge_mm === null ? "–" : figure(m.longest_bridge_mm, 1)),
    fails: (m) => (m.longest_bridge_mm ?? 0) > BRIDGE_ROUGH_MM,
    doubtful: (m) => (m.longest_bridge_mm ?? 0) > BRIDGE_CLEAN_MM,
  },
  {
    key: "first_layer_mm2",
    head: "first layer",
    unit: "mm²",
    long: "area of the first layer",
    write: (m) => measure(m.first_layer_mm2),
  },
  { key: "height_mm", of: "height", head: "height", unit: "mm", long: "height", write: (m) => figure(m.height_mm, 1) },
  {
    key: "tipping_deg",
    of: "tipping",
    head: "tips at",
    unit: "°",
    long: "static tipping angle",
    write: (m) => figure(m.tipping_deg, 0) + "°",
    fails: (m) => m.tipping_deg < STANDS_DEG,
  },
  {
    key: "drag_ratio",
    of: "drag",
    head: "drag",
    unit: "×",
    long: "plate's hold over nozzle's drag",
    write: (m) => figure(m.drag_ratio, 1),
    doubtful: (m) => m.drag_ratio < DRAG_ENOUGH,
  },
  { key: "time_s", of: "time", head: "time", unit: "h:mm", long: "print time", write: (m) => hours(m.time_s) },
];

export interface Compared extends Omit<Column, "key" | "doubtful"> {
  value: (m: Measures) => number | null;
  better: "less" | "more" | null;
}

const compared = (key: MeasureKey, better: Compared["better"]): Compared => {
  const column = [RESERVE_COLUMN, ...COLUMNS, ...MORE].find((c) => c.key === key);
  if (!column) throw new Error(`no measure ${key}`);
  return { ...column, value: (m) => m[key] ?? null, better };
};

/** Measures that the table of candidates has no room for. */
const MORE: readonly Column[] = [
  {
    key: "support_volume_mm3",
    head: "support",
    unit: "mm³",
    long: "space under overhangs",
    write: (m) => measure(m.support_volume_mm3),
  },
  {
    key: "scar_mm2",
    of: "scar",
    head: "scar",
    unit: "mm²",
    long: "area that support would touch",
    write: (m) => measure(m.scar_mm2),
  },
  {
    key: "curl",
    head: "curl",
    unit: "mm²/MPa",
    long: "ranking number: how much it wants to lift at the ends",
    write: (m) => figure(m.curl, 0),
  },
  {
    key: "finish_mm",
    of: "stair",
    head: "stair",
    unit: "mm",
    long: "mean height of the steps on sloping faces",
    write: (m) => figure(m.finish_mm, 3),
  },
  {
    key: "protected_scar_mm2",
    head: "faces",
    unit: "mm²",
    long: "protected face that support would scar",
    write: (m) => measure(m.protected_scar_mm2),
  },
  {
    key: "bores_lying",
    head: "bores",
    unit: "lying",
    long: "bores with a fit whose roof overhangs",
    write: (m) => (m.bores_lying === null || m.bores_lying === undefined ? "–" : String(m.bores_lying)),
  },
];

/** What is laid side by side, in the order of the handbook's questions: does it stand, what hangs, what does it cost. */
export const COMPARED: readonly Compared[] = [
  compared("tipping_deg", "more"),
  compared("drag_ratio", "more"),
  compared("first_layer_mm2", null),
  compared("needing_area_mm2", "less"),
  compared("support_volume_mm3", "less"),
  compared("scar_mm2", "less"),
  compared("islands", "less"),
  compared("longest_bridge_mm", "less"),
  compared("curl", "less"),
  compared("finish_mm", "less"),
  compared("height_mm", "less"),
  compared("time_s", "less"),
];

/** The duties that the job has, beside what is always compared. */
export const comparedFor = (all: readonly Measures[]): readonly Compared[] => [
  ...(all.some((m) => typeof m.reserve === "number") ? [compared("reserve", "more")] : []),
  ...COMPARED,
  ...(["protected_scar_mm2", "bores_lying"] as const)
    .filter((key) => all.some((m) => (m[key] ?? null) !== null))
    .map((key) => compared(key, "less")),
];

/** What weights can be put on; the server holds the rule. */
export const WEIGHTS = [
  { key: "strength", words: "strength" },
  { key: "support", words: "support" },
  { key: "stability", words: "stability" },
  { key: "time", words: "time" },
  { key: "height", words: "height" },
  { key: "scar", words: "scar" },
  { key: "curl", words: "curl" },
  { key: "finish", words: "stair" },
  { key: "protected", words: "faces" },
] as const;

/** The answer in a sentence, as the desk says it. */
export function verdict(m: Measures): string {
  const stands =
    m.tipping_deg < 0
      ? "Falls over by itself."
      : m.tipping_deg < STANDS_DEG
        ? `Barely stands: tips at ${figure(m.tipping_deg, 0)}°.`
        : `Stands by itself, tips at ${figure(m.tipping_deg, 0)}°.`;
  const hangs =
    m.overhang_area_mm2 < 0.5
      ? "Nothing overhangs."
      : m.needing_area_mm2 < 0.5
        ? `${measure(m.overhang_area_mm2)} mm² overhangs and holds itself.`
        : `${measure(m.needing_area_mm2)} mm² needs support (${measure(m.support_volume_mm3)} mm³ of it).`;
  const begins = m.islands ? ` ${m.islands} ${m.islands === 1 ? "region begins" : "regions begin"} in mid-air.` : "";
  const drag = m.drag_ratio < DRAG_ENOUGH ? " The nozzle may drag it off: give it a brim." : "";
  return `${stands} ${hangs}${begins}${drag}`;
}
