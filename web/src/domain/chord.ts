/** What is drawn across a wall at one place of a layer: how thick it is there, and what fills it from face to face. */
export type Loops = readonly (readonly number[])[];

/** One layer as it is drawn, mm. */
export interface Drawn {
  outline: Loops;
  /** The middles of the lines, outermost first. */
  lines: readonly Loops[];
  core: Loops;
  slits: Loops;
  bare: Loops;
  width_mm: number;
  inner_mm: number;
}

export interface Chord {
  from: readonly [number, number];
  to: readonly [number, number];
  thickness: number;
  lines: number;
  /** mm of it that infill fills, that a slit leaves, and where no line fits. */
  infill: number;
  slit: number;
  bare: number;
}

type Point = readonly [number, number];

/** The straight way through `at` from the nearest face to the one across; null outside the layer. */
export function chordAt(drawn: Drawn, at: Point): Chord | null {
  const face = nearest(drawn.outline, at);
  if (!face || crossings(drawn.outline, at, [1, 0]).filter((t) => t > 0).length % 2 === 0) return null;
  const [from, inward] = face;
  const thickness = crossings(drawn.outline, from, inward).find((t) => t > 1e-6);
  if (thickness === undefined) return null;
  const crossed = (loops: Loops) => crossings(loops, from, inward).filter((t) => t > -1e-6 && t < thickness + 1e-6);
  const within = (loops: Loops) => crossed(loops).reduce((sum, t, i) => sum + (i % 2 ? t : -t), 0);
  let lines = 0;
  drawn.lines.forEach((loops, i) => {
    // A line squeezed between two faces is kept as a narrow loop: both its sides are one line.
    let last = -Infinity;
    for (const t of crossed(loops)) {
      if (t - last < (i ? drawn.inner_mm : drawn.width_mm) / 2) continue;
      lines++;
      last = t;
    }
  });
  return {
    from,
    to: [from[0] + inward[0] * thickness, from[1] + inward[1] * thickness],
    thickness,
    lines,
    infill: within(drawn.core),
    slit: within(drawn.slits),
    bare: within(drawn.bare),
  };
}

/** Nearest point of the outline, and the unit way from it through `at`; along the face's normal where `at` is on it. */
function nearest(outline: Loops, at: Point): [Point, Point] | null {
  let best = Infinity;
  let found: [Point, Point] | null = null;
  for (const [px, py, qx, qy] of segments(outline)) {
    const [dx, dy] = [qx - px, qy - py];
    const long = dx * dx + dy * dy;
    if (long === 0) continue;
    const share = Math.max(0, Math.min(1, ((at[0] - px) * dx + (at[1] - py) * dy) / long));
    const foot: Point = [px + share * dx, py + share * dy];
    const away = Math.hypot(at[0] - foot[0], at[1] - foot[1]);
    if (away >= best) continue;
    best = away;
    // Outlines run counter-clockwise, holes clockwise: material is on the left.
    found = [
      foot,
      away > 1e-6
        ? [(at[0] - foot[0]) / away, (at[1] - foot[1]) / away]
        : [-dy / Math.sqrt(long), dx / Math.sqrt(long)],
    ];
  }
  return found;
}

/** Where a straight line from `from` along the unit `way` crosses loops: mm from it, least first. */
function crossings(loops: Loops, from: Point, way: Point): number[] {
  const out: number[] = [];
  const side = (x: number, y: number) => (x - from[0]) * way[1] - (y - from[1]) * way[0];
  for (const [px, py, qx, qy] of segments(loops)) {
    const [p, q] = [side(px, py), side(qx, qy)];
    if (p < 0 === q < 0) continue;
    const share = p / (p - q);
    out.push((px + share * (qx - px) - from[0]) * way[0] + (py + share * (qy - py) - from[1]) * way[1]);
  }
  return out.sort((a, b) => a - b);
}

function* segments(loops: Loops): Generator<[number, number, number, number]> {
  for (const loop of loops) {
    for (let i = 0; i + 1 < loop.length; i += 2) {
      const j = (i + 2) % loop.length;
      yield [loop[i] ?? 0, loop[i + 1] ?? 0, loop[j] ?? 0, loop[j + 1] ?? 0];
    }
  }
}
