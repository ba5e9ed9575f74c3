/** What a check of strength tells, in words; and the field over the part as the server sends it. */
import { figure } from "./figures";
import type { Vec3 } from "./vectors";

export const MODES: Readonly<Record<string, string>> = {
  interlayer_tension: "splits between layers",
  interlayer_shear: "shears between layers",
  interlayer_mixed: "splits and shears between layers",
  in_layer: "breaks across the lines",
  compression: "fails by compression in the layer",
};

export const STRENGTHS: Readonly<Record<string, { sign: string; words: string }>> = {
  x_t: { sign: "X_t", words: "along the layers" },
  x_a: { sign: "X_a", words: "across the lines" },
  z_t: { sign: "Z_t", words: "across the layers" },
  z_s: { sign: "Z_s", words: "shear between layers" },
  x_c: { sign: "X_c", words: "pushed along the layers" },
  z_c: { sign: "Z_c", words: "pushed across the layers" },
};

/** Beyond this a reserve buys nothing more: it is drawn and told as “3+”. */
export const PLENTY = 3;

export const reserve = (value: number | null | undefined): string =>
  value === null || value === undefined ? "–" : value >= 99.5 ? "99+" : figure(value, value >= 9.995 ? 1 : 2);

/** The share of the strength used all over the part. */
export interface Field {
  counts: Vec3;
  low: Vec3;
  /** A cell's side, mm. */
  size: number;
  /** What 255 stands for. */
  most: number;
  /** Cells along x, then y, then z; 0 where nothing was read. */
  cells: Uint8Array;
}

/** Reads `HWF1`: letters; cells along x, y, z and cases, uint32; least corner and side, most of each case, float32; cells. */
export function decodeFields(data: ArrayBuffer): Field[] {
  if (new TextDecoder().decode(data.slice(0, 4)) !== "HWF1")
    throw new Error("The server sent a field that this page cannot read.");
  const [x = 0, y = 0, z = 0, cases = 0] = new Uint32Array(data, 4, 4);
  const [lowX = 0, lowY = 0, lowZ = 0, size = 1] = new Float32Array(data, 20, 4);
  const most = new Float32Array(data, 36, cases);
  const start = 36 + 4 * cases;
  return Array.from({ length: cases }, (_, i) => ({
    counts: [x, y, z],
    low: [lowX, lowY, lowZ],
    size,
    most: most[i] ?? 0,
    cells: new Uint8Array(data, start + i * x * y * z, x * y * z),
  }));
}
