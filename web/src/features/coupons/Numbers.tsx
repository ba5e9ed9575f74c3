/** The numbers that a sheet's readings give, large, with their band; taken into the record by a person. */
import { Link } from "@tanstack/react-router";

import type { CouponSheet, Found } from "../../api/coupons";
import { figure, measure } from "../../domain/figures";
import { Button } from "../../ui/controls";

interface Props {
  sheet: CouponSheet;
  /** Jobs that stand on the record. */
  leaning: number;
  taken: string | null;
  /** Null for those who may not. */
  onTake: ((names: string[]) => void) | null;
}

const small = (value: number) => (Math.abs(value) < 0.1 && value !== 0 ? figure(value, 4) : measure(value));

export function Numbers({ sheet, leaning, taken, onTake }: Props) {
  const fields = sheet.found.filter((f) => f.name !== null && !f.taken).map((f) => f.name ?? "");
  return (
    <section className="px-4 py-3" aria-label="What the readings give" data-testid="numbers">
      <h3 className="pb-1 font-semibold">What the readings give</h3>
      {sheet.why && <p className="text-crown">{sheet.why}</p>}
      {sheet.found.length === 0 && !sheet.why && (
        <p className="text-second">Nothing yet. Type a reading, or paste a column of them.</p>
      )}
      <ul>
        {sheet.found.map((f) => (
          <Number_ key={f.words} found={f} />
        ))}
      </ul>
      {sheet.says.map((s) => (
        <p key={s} className="text-second">
          {s}
        </p>
      ))}
      {onTake && fields.length > 0 && (
        <p className="mt-2 flex items-center gap-3">
          <Button disabled={sheet.compensated} onClick={() => onTake(fields)}>
            Take into the record
          </Button>
          <span className="narrow text-second">
            <span className="figure">{leaning}</span> {leaning === 1 ? "job stands" : "jobs stand"} on it
          </span>
        </p>
      )}
      {taken && (
        <p className="mt-2" role="status">
          Taken. What was calculated with the old number is marked as changed.{" "}
          <Link to="/farm" className="underline hover:text-moss">
            The farm's records
          </Link>
        </p>
      )}
    </section>
  );
}

function Number_({ found }: { found: Found }) {
  return (
    <li className="border-t border-rule py-1.5" data-found={found.name ?? found.words}>
      <span className="flex items-baseline gap-2">
        <span className="min-w-0 flex-1">{found.words}</span>
        <b className="figure text-[19px] leading-none">{small(found.value)}</b>
        <span className="figure w-14">{found.unit}</span>
      </span>
      <span className="narrow flex flex-wrap gap-x-3 text-second">
        <span>
          95 % between{" "}
          <span className="figure">
            {small(found.low)} and {small(found.high)}
          </span>
        </span>
        {found.deviation !== null && (
          <span>
            scatter <span className="figure">{small(found.deviation)}</span>
          </span>
        )}
        <span>
          <span className="figure">{found.count}</span> {found.count === 1 ? "reading" : "readings"},{" "}
          <span className="figure">{found.plates}</span> {found.plates === 1 ? "plate" : "plates"}
        </span>
        <span className="ml-auto">
          {found.taken ? "■ in the record" : found.held === null ? "○ not on record" : `record: ${small(found.held)}`}
        </span>
      </span>
    </li>
  );
}
