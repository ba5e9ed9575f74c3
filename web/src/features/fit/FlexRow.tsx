/** One arm that bends: what it feels against what it may, as its layers lie; opened, its sizes and what would hold. */
import type { FlexRow as Row, Flexes } from "../../api/fit";
import { figure } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { Button } from "../../ui/controls";
import { Asked } from "./Asked";
import { ReserveSaid } from "./ReserveSaid";
import { RimSums } from "./RimSums";
import { SumLine } from "./SumLine";

interface Props {
  bent: Flexes[number];
  row: Row | undefined;
  /** What became of it in the drawing that holds. */
  drawn: Row | undefined;
  here: boolean;
  onOpen: () => void;
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<keyof Flexes[number], unknown>>) => void) | null;
  onCure: ((cure: Cure) => void) | null;
  onOut: (() => void) | null;
}

type Cure = Flexes[number]["cure"];

const percent = (strain: number) => `${figure(100 * strain, 2)} %`;

export function FlexRow({ bent, row, drawn, here, onOpen, onChange, onCure, onOut }: Props) {
  const told = row?.flex;
  const rim = row?.rim;
  const fails = (told ?? rim)?.verdict === "fails";
  const least = told?.reserve ?? rim?.reserve ?? null;
  return (
    <li className={`border-t border-rule ${here ? "bg-raised" : ""}`} data-flex={bent.name}>
      <button
        type="button"
        className="grid w-full grid-cols-[1fr_auto] gap-x-3 px-3 py-1 text-left"
        aria-expanded={here}
        onClick={onOpen}
      >
        <b>{bent.name}</b>
        <span className="text-right">{least !== null && <ReserveSaid value={least} fails={fails} />}</span>
        {told && (
          <span className="narrow col-span-2 text-second">
            <span className="figure">
              {figure(told.thickness_mm, 2)} × {figure(told.width_mm, 1)} × {figure(told.length_mm, 1)} mm
            </span>
            , {told.held_twice ? "held at both ends" : "held at one end"},{" "}
            <span className="figure">{figure(told.stands_deg, 0)}°</span> to its layers, bent by{" "}
            <span className="figure">{figure(told.deflection_mm, 2)} mm</span>
          </span>
        )}
        {rim && (
          <span className="narrow col-span-2 text-second">
            rim {rim.inside ? "inside" : "round"} ⌀{" "}
            <span className="figure">
              {figure(rim.diameter_mm, 2)}, wall {figure(rim.wall_mm, 2)}, undercut {figure(rim.undercut_mm, 2)} mm
            </span>
            , its hoop {rim.stands ? "in the layers" : "across the layers"}
          </span>
        )}
        {(row?.why ?? drawn?.refused) && <span className="col-span-2 text-crown">{row?.why ?? drawn?.refused}</span>}
      </button>
      {here && (
        <div className="space-y-2 px-3 pb-2.5" data-testid="flex-fields">
          {(told ?? rim)?.says.map((s) => (
            <p key={s} className={s.startsWith("It stands across") ? "text-crown" : "text-second"}>
              {s}
            </p>
          ))}
          {rim ? <RimSums rim={rim} /> : <Asked bent={bent} told={told ?? null} onChange={onChange} />}
          {told && told.reserve !== null && (
            <table className="w-full" data-testid="flex-sums">
              <tbody>
                <SumLine words="strain at its root" of="strain">
                  {percent(told.strain)}
                  {told.notch > 1.005 && ` × ${figure(told.notch, 2)} for the notch`}
                </SumLine>
                <SumLine words="allowed as its layers lie">{percent(told.allowed)}</SumLine>
                <SumLine words="reserve with the arm in the layers">
                  <b className={told.lying !== null && told.lying < 1 ? "text-crown" : ""}>{reserve(told.lying)}</b>
                </SumLine>
                <SumLine words="pushed aside with">{figure(told.force_n, 1)} N</SumLine>
                {!told.held_twice && (
                  <SumLine words="goes in with, comes out with">
                    {told.mating_n === null ? "does not go in" : `${figure(told.mating_n, 1)} N`},{" "}
                    {told.holding_n === null ? "does not open by itself" : `${figure(told.holding_n, 1)} N`}
                  </SumLine>
                )}
                {told.verdict === "fails" && (
                  <SumLine words="it would hold">
                    {[
                      told.thinner_mm !== null && `${figure(told.thinner_mm, 2)} mm thick`,
                      told.longer_mm !== null && `${figure(told.longer_mm, 1)} mm long`,
                      told.rounder_mm !== null && `root R ${figure(told.rounder_mm, 1)} mm`,
                    ]
                      .filter(Boolean)
                      .join(", or ")}
                  </SumLine>
                )}
              </tbody>
            </table>
          )}
          <p className="flex gap-2">
            {onCure && told?.verdict === "fails" && (
              <>
                {told.thinner_mm !== null && (
                  <Button onClick={() => onCure("thinner")}>{`Thin it to ${figure(told.thinner_mm, 2)} mm`}</Button>
                )}
                {told.longer_mm !== null && !told.held_twice && (
                  <Button
                    plain
                    onClick={() => onCure("longer")}
                  >{`Make it ${figure(told.longer_mm, 1)} mm long`}</Button>
                )}
                {told.rounder_mm !== null && (
                  <Button plain onClick={() => onCure("rounder")}>{`Root R ${figure(told.rounder_mm, 1)} mm`}</Button>
                )}
              </>
            )}
            {onOut && (
              <Button plain onClick={onOut} className="ml-auto">
                Take out
              </Button>
            )}
          </p>
        </div>
      )}
    </li>
  );
}
