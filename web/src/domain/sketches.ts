/** Small sketches of what a card is about, its dimensions named as its inputs are. Units: of a sheet 220 wide, 130 high. */

type Point = readonly [number, number];

export interface Sketch {
  /** Outlines of what is cut or seen; closed ones are filled. */
  bodies: readonly { points: readonly Point[]; steel?: boolean; open?: boolean }[];
  rounds?: readonly { at: Point; radius: number; steel?: boolean; dashed?: boolean }[];
  /** Middle lines and hidden edges. */
  thin?: readonly (readonly [Point, Point])[];
  /** From, to, and the name of the input that it is. */
  sizes: readonly (readonly [Point, Point, string])[];
  /** A force or a torque: at, towards, and its name. */
  forces?: readonly (readonly [Point, Point, string])[];
}

const box = (x: number, y: number, w: number, h: number): Point[] => [
  [x, y],
  [x + w, y],
  [x + w, y + h],
  [x, y + h],
];
const steel = (points: readonly Point[]) => ({ points, steel: true });
const body = (points: readonly Point[]) => ({ points });

/** A bolt down the middle of a block, its head above, its nut below. */
const BOLTED = [
  body(box(50, 30, 50, 70)),
  body(box(120, 30, 50, 70)),
  steel(box(100, 22, 20, 86)),
  steel(box(88, 10, 44, 12)),
  steel(box(80, 22, 60, 8)),
  steel(box(88, 100, 44, 14)),
];

/** A hook on an arm that grows out of a wall. */
const ARM = body([
  [20, 20],
  [50, 20],
  [50, 55],
  [170, 55],
  [170, 38],
  [190, 55],
  [190, 70],
  [50, 75],
  [50, 115],
  [20, 115],
]);

export const SKETCHES: Readonly<Record<string, Sketch>> = {
  thread: {
    bodies: [
      steel([
        [30, 20],
        [150, 20],
        [160, 32],
        [170, 20],
        [180, 32],
        [190, 20],
        [190, 110],
        [180, 98],
        [170, 110],
        [160, 98],
        [150, 110],
        [30, 110],
      ]),
    ],
    thin: [
      [
        [20, 65],
        [205, 65],
      ],
    ],
    sizes: [
      [[40, 20], [40, 110], "diameter"],
      [[170, 12], [190, 12], "pitch"],
    ],
  },
  joint: {
    bodies: BOLTED,
    thin: [
      [
        [110, 2],
        [110, 126],
      ],
    ],
    sizes: [
      [[190, 30], [190, 100], "grip"],
      [[80, 122], [140, 122], "washer"],
      [[50, 4], [170, 4], "outer"],
    ],
  },
  washer_spread: {
    bodies: [body(box(30, 60, 160, 50)), steel(box(60, 46, 100, 14)), steel(box(85, 20, 50, 26))],
    sizes: [
      [[85, 12], [135, 12], "bearing"],
      [[60, 120], [160, 120], "outer"],
      [[175, 46], [175, 60], "thickness"],
    ],
  },
  washer: {
    bodies: [body(box(30, 60, 160, 50)), steel(box(60, 46, 35, 14)), steel(box(125, 46, 35, 14))],
    thin: [
      [
        [95, 60],
        [95, 110],
      ],
      [
        [125, 60],
        [125, 110],
      ],
    ],
    sizes: [
      [[60, 120], [160, 120], "outer"],
      [[95, 92], [125, 92], "hole"],
    ],
    forces: [[[110, 6], [110, 30], "force"]],
  },
  nut_pocket: {
    bodies: [
      body([
        [20, 20],
        [200, 20],
        [200, 110],
        [20, 110],
      ]),
      steel([
        [70, 65],
        [90, 30],
        [130, 30],
        [150, 65],
        [130, 100],
        [90, 100],
      ]),
    ],
    rounds: [{ at: [110, 65], radius: 16 }],
    sizes: [
      [[170, 30], [170, 100], "across flats"],
      [[94, 65], [126, 65], "hole"],
    ],
  },
  clamp: {
    bodies: [...BOLTED],
    sizes: [[[110, 122], [150, 122], "eccentricity"]],
    forces: [
      [[30, 40], [30, 12], "tension"],
      [[190, 65], [205, 90], "bending"],
    ],
  },
  tapping: {
    bodies: [
      body(box(40, 40, 45, 80)),
      body(box(135, 40, 45, 80)),
      steel(box(85, 24, 50, 82)),
      steel(box(70, 10, 80, 14)),
    ],
    sizes: [
      [[85, 126], [135, 126], "pitch diameter"],
      [[195, 40], [195, 106], "engagement"],
      [[70, 4], [150, 4], "head mean"],
    ],
  },
  tip: {
    bodies: [
      body(box(30, 70, 160, 50)),
      steel(box(85, 10, 50, 50)),
      steel([
        [85, 60],
        [135, 60],
        [125, 70],
        [95, 70],
      ]),
    ],
    sizes: [
      [[85, 4], [135, 4], "diameter"],
      [[95, 82], [125, 82], "tip"],
    ],
  },
  tooth: {
    bodies: [
      body([
        [20, 110],
        [20, 60],
        [70, 60],
        [84, 20],
        [124, 20],
        [140, 60],
        [200, 60],
        [200, 110],
      ]),
    ],
    sizes: [
      [[70, 70], [140, 70], "root width"],
      [[155, 20], [155, 60], "height"],
    ],
    forces: [[[60, 34], [86, 40], "force"]],
  },
  bore: {
    bodies: [body(box(30, 15, 160, 100))],
    rounds: [
      { at: [110, 65], radius: 38 },
      { at: [110, 65], radius: 32, steel: true },
    ],
    sizes: [
      [[78, 65], [142, 65], "mate"],
      [[142, 90], [148, 90], "clearance"],
    ],
  },
  corner: {
    bodies: [
      body([
        [20, 20],
        [60, 20],
        [60, 90],
        [200, 90],
        [200, 118],
        [20, 118],
      ]),
    ],
    rounds: [{ at: [60, 90], radius: 10, dashed: true }],
    sizes: [[[20, 40], [60, 40], "width"]],
    forces: [[[90, 90], [80, 70], "angle"]],
  },
  rod: {
    bodies: [body(box(60, 15, 100, 100)), steel(box(112, 4, 24, 122))],
    thin: [
      [
        [110, 4],
        [110, 126],
      ],
    ],
    sizes: [
      [[110, 122], [124, 122], "offset"],
      [[112, 60], [136, 60], "rod diameter"],
      [[110, 30], [160, 30], "body edge"],
    ],
    forces: [[[190, 40], [205, 70], "moment"]],
  },
  pin_in_hole: {
    bodies: [body(box(90, 15, 110, 42)), body(box(90, 73, 110, 42)), steel(box(20, 57, 150, 16))],
    sizes: [
      [[90, 124], [170, 124], "depth"],
      [[28, 88], [90, 88], "arm"],
      [[182, 57], [182, 73], "diameter"],
    ],
    forces: [[[28, 20], [28, 55], "force"]],
  },
  key: {
    bodies: [steel(box(90, 18, 40, 30))],
    rounds: [{ at: [110, 85], radius: 42 }],
    sizes: [
      [[90, 10], [130, 10], "width"],
      [[142, 18], [142, 34], "depth"],
      [[110, 85], [110, 34], "radius"],
    ],
    forces: [[[168, 85], [160, 110], "torque"]],
  },
  dowel: {
    bodies: [
      body(box(30, 15, 160, 32)),
      body(box(30, 47, 160, 36)),
      body(box(30, 83, 160, 32)),
      steel(box(98, 8, 24, 114)),
    ],
    sizes: [
      [[98, 126], [122, 126], "diameter"],
      [[205, 47], [205, 83], "depth"],
    ],
    forces: [[[60, 65], [30, 65], "force"]],
  },
  insert: {
    bodies: [body(box(40, 30, 40, 90)), body(box(140, 30, 40, 90)), steel(box(80, 30, 60, 60))],
    thin: [
      [
        [110, 10],
        [110, 126],
      ],
    ],
    sizes: [
      [[80, 18], [140, 18], "outer"],
      [[195, 30], [195, 90], "length"],
    ],
  },
  press: {
    bodies: [],
    rounds: [
      { at: [110, 65], radius: 58 },
      { at: [110, 65], radius: 30, steel: true },
    ],
    sizes: [
      [[80, 65], [140, 65], "diameter"],
      [[52, 122], [168, 122], "hub outer"],
    ],
  },
  snap: {
    bodies: [ARM],
    sizes: [
      [[50, 100], [180, 100], "length"],
      [[62, 55], [62, 75], "thickness"],
      [[205, 38], [205, 55], "undercut"],
    ],
  },
  snap_length: {
    bodies: [ARM],
    sizes: [
      [[62, 55], [62, 75], "thickness"],
      [[205, 38], [205, 55], "undercut"],
    ],
  },
  annular_snap: {
    bodies: [
      body([
        [40, 20],
        [180, 20],
        [180, 34],
        [170, 44],
        [180, 54],
        [180, 110],
        [40, 110],
        [40, 54],
        [50, 44],
        [40, 34],
      ]),
    ],
    thin: [
      [
        [110, 8],
        [110, 124],
      ],
    ],
    sizes: [
      [[40, 122], [180, 122], "diameter"],
      [[170, 44], [180, 44], "undercut"],
    ],
  },
  spring: {
    bodies: [
      body([
        [30, 100],
        [30, 30],
        [60, 30],
        [60, 90],
        [80, 90],
        [80, 30],
        [120, 30],
        [120, 90],
        [140, 90],
        [140, 30],
        [170, 30],
        [170, 100],
        [160, 100],
        [160, 40],
        [150, 40],
        [150, 100],
        [110, 100],
        [110, 40],
        [90, 40],
        [90, 100],
        [50, 100],
        [50, 40],
        [40, 40],
        [40, 100],
      ]),
    ],
    sizes: [
      [[195, 40], [195, 90], "length"],
      [[30, 16], [40, 16], "thickness"],
    ],
    forces: [[[175, 110], [205, 110], "travel"]],
  },
  pin: {
    bodies: [
      body([
        [20, 15],
        [60, 15],
        [60, 45],
        [180, 50],
        [180, 80],
        [60, 85],
        [60, 115],
        [20, 115],
      ]),
    ],
    sizes: [
      [[60, 104], [165, 104], "arm"],
      [[190, 50], [190, 80], "diameter"],
    ],
    forces: [[[165, 18], [165, 48], "force"]],
  },
  post: {
    bodies: [body(box(95, 20, 30, 96)), body(box(50, 116, 120, 10))],
    sizes: [[[150, 20], [150, 116], "length"]],
  },
  lap: {
    bodies: [body(box(20, 40, 120, 20)), body(box(80, 68, 120, 20)), steel(box(80, 60, 60, 8))],
    sizes: [
      [[80, 104], [140, 104], "overlap"],
      [[64, 40], [64, 60], "adherend"],
      [[150, 60], [150, 68], "glue"],
    ],
    forces: [[[40, 50], [8, 50], "force"]],
  },
  tensile: {
    bodies: [
      body([
        [10, 35],
        [50, 35],
        [75, 52],
        [145, 52],
        [170, 35],
        [210, 35],
        [210, 95],
        [170, 95],
        [145, 78],
        [75, 78],
        [50, 95],
        [10, 95],
      ]),
    ],
    sizes: [[[110, 52], [110, 78], "width"]],
    forces: [[[195, 65], [218, 65], "break"]],
  },
};
