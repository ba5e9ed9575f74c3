/** A small body that marks a place of the part: eight facets round a point. */
import type { Vec3 } from "./vectors";

export function pointer([x, y, z]: Vec3, size: number): Float32Array {
  const out: number[] = [];
  for (const i of [-size, size])
    for (const j of [-size, size])
      for (const k of [-size, size]) {
        const corners = [
          [x + i, y, z],
          [x, y + j, z],
          [x, y, z + k],
        ];
        if (i * j * k < 0) corners.reverse();
        out.push(...corners.flat());
      }
  return new Float32Array(out);
}
