/** The stages of a part in the order of the work: what the rail lists, what a key leads to. Each has its route in App. */
export const STAGES = [
  { key: "facts", name: "Part", keys: "p" },
  { key: "requirements", name: "Requirements", keys: "r" },
  { key: "direction", name: "Direction", keys: "d" },
  { key: "overhangs", name: "Overhangs", keys: "v" },
  { key: "pieces", name: "Pieces", keys: "k" },
  { key: "walls", name: "Walls", keys: "g" },
  { key: "strength", name: "Strength", keys: "s" },
] as const;

export type StageKey = (typeof STAGES)[number]["key"];
