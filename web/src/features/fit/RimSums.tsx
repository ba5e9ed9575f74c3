/** The sums of an annular snap that a part has: what its hoop feels, what it goes in with, what would hold. */
import type { FlexRow } from "../../api/fit";
import { figure } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { SumLine } from "./SumLine";

const percent = (strain: number) => `${figure(100 * strain, 2)} %`;

export function RimSums({ rim }: { rim: NonNullable<FlexRow["rim"]> }) {
  return (
    <table className="w-full" data-testid="rim-sums">
      <tbody>
        <SumLine words="strain of its hoop" of="strain">
          {percent(rim.strain)}
        </SumLine>
        <SumLine words={rim.stands ? "allowed across its lines" : "allowed across its layers"}>
          {percent(rim.allowed)}
        </SumLine>
        <SumLine words={rim.stands ? "reserve with the axis lying" : "reserve with the axis upright"}>
          <b className={rim.turned < 1 ? "text-crown" : ""}>{reserve(rim.turned)}</b>
        </SumLine>
        <SumLine words="from its bead to the end that gives">{figure(rim.from_end_mm, 1)} mm</SumLine>
        <SumLine words="slopes going in, coming out">
          {figure(rim.angle_in, 0)}°, {figure(rim.angle_out, 0)}°
        </SumLine>
        <SumLine words="goes in with, comes out with">
          {rim.mating_n === null ? "does not go in" : `${figure(rim.mating_n, 0)} N`},{" "}
          {rim.holding_n === null ? "not by itself" : `${figure(rim.holding_n, 0)} N`}
        </SumLine>
        {rim.least_mm !== null && (
          <SumLine words="it would hold with an undercut of">{figure(rim.least_mm, 2)} mm</SumLine>
        )}
      </tbody>
    </table>
  );
}
