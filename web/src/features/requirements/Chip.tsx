import { REGION_COLOURS } from "../../scene/paper";

/** The colour of a face, as it is on the part. */
export function Chip({ colour }: { colour: number }) {
  return (
    <span className="inline-block h-3 w-3 shrink-0" style={{ background: REGION_COLOURS[colour] }} aria-hidden="true" />
  );
}
