/** What the findings rest on: the direction, the overhang limit and the bridges, with their origins. */
import type { Overhangs as Known, Part } from "../../api/client";
import { figure } from "../../domain/figures";
import { directionWords, toVec3 } from "../../domain/vectors";
import { OriginMark } from "../../ui/OriginMark";

/** The limit that all of this rests on, its convention, and where it comes from. */
export function LimitLine({ part, known, adapted }: { part: Part; known: Known | undefined; adapted: boolean }) {
  const { numbers, origins } = part.process;
  const n = (name: string) => Number(numbers[name]);
  const from = (name: string) => <OriginMark origin={origins[name]?.origin ?? "handbook"} words={null} />;
  return (
    <div className="narrow whitespace-nowrap text-second" data-testid="limit-line">
      <p>
        {known?.up ? <b className="text-ink">{directionWords(toVec3(known.up))}</b> : "no direction yet"}
        {known?.up &&
          !known.chosen &&
          ` · ${adapted ? "what it was adapted for" : "the first candidate"}, none chosen yet`}
      </p>
      <p>
        limit <span className="figure text-ink">{figure(n("limit"), 0)}°</span> from the vertical {from("limit")} ·
        bridges clean to <span className="figure text-ink">{figure(n("clean_bridge"), 0)}</span>, rough to{" "}
        <span className="figure text-ink">{figure(n("rough_bridge"), 0)} mm</span> {from("rough_bridge")}
      </p>
    </div>
  );
}
