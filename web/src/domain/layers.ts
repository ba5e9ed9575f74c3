/** The layers of a standing part as the server sends them, and the words for what hangs in them. */
import { figure } from "./figures";

export interface Outlines {
  count: number;
  /** Closed loops of layer `k`, x and y in turn, mm from the part's middle; material on the left. */
  layer: (k: number) => Float32Array[];
}

/** Reads `HWL1`: letters; layers, loops, points; where layers' and loops begin, uint32; points float32; little endian. */
export function decodeOutlines(data: ArrayBuffer): Outlines {
  if (new TextDecoder().decode(data.slice(0, 4)) !== "HWL1")
    throw new Error("The server sent layers that this page cannot read.");
  const [count = 0, loops = 0, points = 0] = new Uint32Array(data, 4, 3);
  const layers = new Uint32Array(data, 16, count + 1);
  const starts = new Uint32Array(data, 20 + 4 * count, loops + 1);
  const xy = new Float32Array(data, 24 + 4 * (count + loops), 2 * points);
  return {
    count,
    layer: (k) => {
      const out: Float32Array[] = [];
      for (let i = layers[k] ?? 0; i < (layers[k + 1] ?? 0); i++)
        out.push(xy.subarray(2 * (starts[i] ?? 0), 2 * (starts[i + 1] ?? 0)));
      return out;
    },
  };
}

/** Twice the area that a loop goes round, negative round a hole. */
function turned(loop: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < loop.length; i += 2) {
    const j = (i + 2) % loop.length;
    sum += (loop[i] ?? 0) * (loop[j + 1] ?? 0) - (loop[j] ?? 0) * (loop[i + 1] ?? 0);
  }
  return sum;
}

function holds(loop: Float32Array, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0; i < loop.length; i += 2) {
    const j = (i + 2) % loop.length;
    const [ax = 0, ay = 0, bx = 0, by = 0] = [loop[i], loop[i + 1], loop[j], loop[j + 1]];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
  }
  return inside;
}

/** The bodies of a layer: each its outer loop, then its holes. */
export function bodiesOf(loops: readonly Float32Array[]): Float32Array[][] {
  const outer = loops.filter((l) => turned(l) > 0).sort((a, b) => turned(a) - turned(b));
  const bodies = outer.map((l) => [l]);
  for (const hole of loops.filter((l) => turned(l) < 0))
    bodies[outer.findIndex((l) => holds(l, hole[0] ?? 0, hole[1] ?? 0))]?.push(hole);
  return bodies;
}

export const KINDS: Readonly<Record<string, string>> = {
  island: "mid-air start",
  bore_roof: "bore roof",
  bed_round: "round on the plate",
  bridge: "bridge",
  ledge: "ledge",
  slope: "slope",
  plate: "edges on the plate",
  wall: "wall",
  boss: "boss",
  bore: "hole",
  corner: "internal corner",
  body: "whole body",
  flat: "flat face",
};

type Numbers = Readonly<Record<string, string | number>>;
const mm = (remedy: Numbers, key: string, digits = 1) => `${figure(Number(remedy[key]), digits)} mm`;

/** The numbers of a remedy in words; what it is called is in the engine's list of them. */
export const REMEDY_NUMBERS: Readonly<Record<string, (r: Numbers) => string>> = {
  teardrop: (r) =>
    `apex ${mm(r, "apex_mm", 2)} above the axis, ${figure(Number(r.included_deg), 0)}° between its roofs`,
  capped_teardrop: (r) => `flat of ${mm(r, "flat_mm", 2)}, ${mm(r, "cap_mm", 2)} above the axis`,
  round_chamfer: (r) => `from ${mm(r, "starts_mm", 2)} up, ${mm(r, "inward_mm", 2)} inward`,
  pointed_arch: (r) => `rises ${mm(r, "rise_mm", 2)}`,
  corner_chamfers: (r) => `rise ${mm(r, "rise_mm", 2)}, leave ${mm(r, "left_mm")} to bridge`,
  gusset: (r) => `${mm(r, "rise_mm", 2)} high`,
  sprue: (r) => `${mm(r, "height_mm")} high, ${mm(r, "thickness_mm")} thick at least`,
};
