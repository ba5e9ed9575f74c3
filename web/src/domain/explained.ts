/** The numbers that are explained where they stand; what is said of them comes from the server. */
export const NUMBER_KEYS = [
  "reserve",
  "band",
  "factor",
  "knock_down",
  "demand",
  "case_stress",
  "deflection",
  "overhang",
  "needs_support",
  "bridge",
  "reach",
  "height",
  "tipping",
  "drag",
  "stair",
  "scar",
  "time",
  "layer_time",
  "mass",
  "wall",
  "wall_better",
  "weld",
  "batch_reserve",
  "per_day",
  "cost",
  "preload",
  "opens_at",
  "seat_pressure",
  "comes_out",
  "clearance",
  "strain",
  "volume_change",
  "late",
  "bound",
  "predicted",
  "correction",
  "safe_factor",
  "portable",
] as const;

export type NumberKey = (typeof NUMBER_KEYS)[number];

export interface Told {
  key: NumberKey;
  name: string;
  says: string;
  formula: string;
  source: string;
  holds: string;
  used: string;
}
