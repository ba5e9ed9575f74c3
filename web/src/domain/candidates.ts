/** Candidates as rows: those that come to the same are one row that opens, those that cannot stand are folded. */
import type { Measures } from "./measures";
import { degreesBetween, toVec3 } from "./vectors";

type Directed = Measures & { up: readonly number[] };

export interface Row<C> {
  first: C;
  /** Directions that come to the same: the part's mirror twins, and those a hair apart. */
  alike: C[];
}

/** Shares by which figures of a mirror twin, and of a direction so near that it is the same on the plate, may differ. */
const TWIN = 0.01;
const HAIR = 0.05;
const HAIR_DEG = 4;
/** What differs by less in its own unit is alike, whatever the share. */
const NOTHING = 0.5;
const SAME: readonly (keyof Measures)[] = [
  "needing_area_mm2",
  "overhang_area_mm2",
  "support_volume_mm3",
  "first_layer_mm2",
  "height_mm",
  "tipping_deg",
  "longest_bridge_mm",
  "islands",
  "time_s",
  "reserve",
  "protected_scar_mm2",
  "bores_lying",
];

function near(a: Measures, b: Measures, share: number): boolean {
  return SAME.every((key) => {
    const [x, y] = [a[key] ?? null, b[key] ?? null];
    if (typeof x !== "number" || typeof y !== "number") return x === y;
    const slack = key === "islands" || key === "bores_lying" ? 0 : key === "reserve" ? 0.02 : NOTHING;
    return Math.abs(x - y) <= Math.max(slack, share * Math.max(Math.abs(x), Math.abs(y)));
  });
}

export const alike = (a: Directed, b: Directed): boolean =>
  near(a, b, TWIN) || (degreesBetween(toVec3(a.up), toVec3(b.up)) < HAIR_DEG && near(a, b, HAIR));

/** The candidates, best first, as rows in the same order; `falls`: those that fall over by themselves. One
 * that barely stands is a row: a brim holds it. */
export function rowsOf<C extends Directed>(candidates: readonly C[]): { rows: Row<C>[]; falls: C[] } {
  const rows: Row<C>[] = [];
  const falls: C[] = [];
  for (const c of candidates) {
    if (c.tipping_deg < 0) falls.push(c);
    else {
      const own = rows.find((r) => alike(r.first, c));
      if (own) own.alike.push(c);
      else rows.push({ first: c, alike: [] });
    }
  }
  // Where nothing stands by itself there is nothing to choose from but those.
  return rows.length > 0 ? { rows, falls } : { rows: falls.map((first) => ({ first, alike: [] })), falls: [] };
}
