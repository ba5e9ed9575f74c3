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

/** Marks an address as a place on the walk through a job. */
export const WALKING = { walk: "on" } as const;

/** What each stage decides, for whoever walks through a job for the first time. */
export const STAGE_SAYS: Readonly<Record<keyof typeof STAGE_NAMES, string>> = {
  facts: "What came in: its unit, its size, what it is made of, and a first answer before anything is chosen.",
  requirements:
    "What the part must do, each line with how it is verified. Loads and what holds it count everywhere at once.",
  direction:
    "Which way it stands: what hangs, how it holds the plate, how its faces look, what its layers bear. One is chosen, with a reason.",
  overhangs:
    "What every layer adds beyond the one below. What needs support is designed out, printed as it is, or accepted with a reason.",
  pieces: "Where one piece cannot be printed or put together it is cut, and the joint is designed with the cut.",
  walls: "Walls as whole lines draw them; ribs, bosses and infill by what they carry.",
  strength: "The reserve of every load in this direction, layer by layer, against what is known of the material.",
  hardware: "Where turning and thickening are not enough, steel clamps the layers or carries the load past them.",
  fit: "What each face that meets another comes out as, and how it is drawn so that it fits.",
  batch:
    "How many stand on a plate. Every neighbour lengthens the wait between layers, so it decides about strength too.",
  trials: "What was printed and broken beside what was predicted, and what the next prediction learns from it.",
  release: "What is proven is frozen: files, settings, instructions and reasons, the same everywhere.",
};

export const stageName = (key: string): string => STAGE_NAMES[key as keyof typeof STAGE_NAMES] ?? key;
