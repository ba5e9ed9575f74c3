/** The best directions ranked by what is left once their remedies are done, beside the plain ranking. */
import { type AfterRow, type Part, api } from "../../api/client";
import { useAfterRemedies } from "../../api/queries";
import { useStage } from "../../api/stage";
import { figure, hours, measure } from "../../domain/figures";
import { reserve as writeReserve } from "../../domain/strength";
import { type Vec3, sameDirection, toVec3 } from "../../domain/vectors";
import { StageState } from "../../ui/StageHeader";

interface Props {
  part: Part;
  may: boolean;
  here: Vec3 | null;
  onTake: (up: Vec3, rank: number | null) => void;
}

export function AfterRemedies({ part, may, here, onTake }: Props) {
  const { calculate, trouble, onStop } = useStage(part, "afterwards");
  const known = useAfterRemedies(part).data;
  return (
    <div
      className="-mx-1 min-h-0 flex-1 space-y-2 overflow-y-auto border-t-[1.4px] border-ink px-1 pt-1"
      tabIndex={0}
      aria-label="Directions after remedies"
      data-testid="afterwards"
    >
      <StageState
        result={known}
        complete={known?.work?.state === "done"}
        verb="Calculate remedies in each"
        onCalculate={may ? () => calculate(() => api.calculateAfterRemedies(part.id)) : null}
        onStop={onStop}
        trouble={trouble}
        about="For the twelve best as they are; each is proved on the solid."
      />
      {known && known.rows.length > 0 && (
        <p className="narrow text-second">
          What stands and holds its loads first, then what needs least support; then less handwork, less plastic added
          (in tenths of the part), stability. Weights do not count here.
        </p>
      )}
      {known && known.rows.length > 0 && (
        <table className="w-full border-collapse">
          <thead>
            <tr className="narrow text-right align-bottom text-[11.5px] text-second">
              <th className="w-9 text-left font-normal">after</th>
              <th className="w-9 font-normal">as it is</th>
              <th className="pl-2 text-left font-normal">direction</th>
              <Head name="needs support" unit="mm²" />
              <Head name="support" unit="mm³" />
              <Head name="plastic" unit="g" />
              <Head name="time" unit="h:mm" />
              <Head name="by hand" unit="" />
              <Head name="reserve" unit="" />
            </tr>
          </thead>
          <tbody>
            {known.rows.map((row) => (
              <Row
                key={row.up.join()}
                row={row}
                selected={here !== null && sameDirection(here, row.up)}
                onTake={onTake}
              />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Head({ name, unit }: { name: string; unit: string }) {
  return (
    <th className="pl-1.5 leading-[1.15] font-normal">
      {name}
      <br />
      <span className="figure text-[10.5px]">{unit || "\u00a0"}</span>
    </th>
  );
}

function Row({ row, selected, onTake }: { row: AfterRow; selected: boolean; onTake: Props["onTake"] }) {
  const moved = row.rank - row.rank_after;
  return (
    <>
      <tr
        aria-selected={selected}
        data-after={row.rank_after}
        onClick={() => onTake(toVec3(row.up), row.rank)}
        className={`figure cursor-pointer text-right text-[11.5px] hover:bg-raised ${selected ? "bg-raised font-semibold" : ""}`}
      >
        <td className="pt-[3px] text-left">
          {row.rank_after}
          {moved !== 0 && <span className="text-second"> {moved > 0 ? `↑${moved}` : `↓${-moved}`}</span>}
        </td>
        <td>{row.rank}</td>
        <td className="narrow pl-2 text-left font-sans">
          <button type="button" className="text-left hover:underline" onClick={() => onTake(toVec3(row.up), row.rank)}>
            {row.up_words}
          </button>
        </td>
        <td className={row.needing_area_mm2 > 0 ? "text-crown" : ""}>{measure(row.needing_area_mm2)}</td>
        <td>{measure(row.support_volume_mm3)}</td>
        <td>{`${row.grams >= 0 ? "+" : "−"}${figure(Math.abs(row.grams), 1)}`}</td>
        <td>{hours(row.seconds)}</td>
        <td>{row.by_hand || "–"}</td>
        <td className={row.reserve !== null && row.reserve < 1 ? "text-crown" : ""}>
          {row.reserve === null ? "–" : writeReserve(row.reserve)}
        </td>
      </tr>
      <tr className="border-b border-rule">
        <td colSpan={9} className="pb-[3px] pl-[18px] text-[12px] leading-tight text-second">
          {row.words}
        </td>
      </tr>
    </>
  );
}
