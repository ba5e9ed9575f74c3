/** What a step that is tried would add to the part and take away, as bodies to be drawn. */
import { DEEP_MOSS, INK } from "../domain/palette";
import { decodeCorners } from "./shape";

/** Added, taken away. */
export const TRIED = [DEEP_MOSS, INK] as const;

export interface Ghost {
  corners: Float32Array;
  colour: string;
}

/** As the server tells it: corners of triangles, or why it cannot be. */
interface Tried {
  why: string | null;
  adds: string;
  takes: string;
}

export function ghostsOf(look: Tried | null | undefined): Ghost[] | undefined {
  if (!look || look.why) return undefined;
  return [
    { corners: decodeCorners(look.adds), colour: TRIED[0] },
    { corners: decodeCorners(look.takes), colour: TRIED[1] },
  ].filter((g) => g.corners.length > 0);
}
