/** What the stages of a part are called, in the order of the work. */
export const STAGE_NAMES = {
  facts: "Part",
  requirements: "Requirements",
  direction: "Direction",
  overhangs: "Overhangs",
  pieces: "Pieces",
  walls: "Walls",
  strength: "Strength",
  hardware: "Hardware",
  fit: "Fit",
  batch: "Batch",
  trials: "Trials",
  release: "Release",
} as const;

export const stageName = (key: string): string => STAGE_NAMES[key as keyof typeof STAGE_NAMES] ?? key;
