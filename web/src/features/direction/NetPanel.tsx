/** The net of all directions with one field drawn on it, and what the pointer is on. */
import { useMemo, useState } from "react";

import { type Candidate, type Duties, type Part, type Study } from "../../api/client";
import { type Sweep } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { ARMS, DUTY_FIELDS, type DutyKey, FIELDS, type Field, type FieldKey, RESERVE } from "../../domain/measures";
import { isEven, nearestRow } from "../../domain/net";
import { RAMP } from "../../domain/ramp";
import { PLENTY, reserve as writeReserve } from "../../domain/strength";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { Net } from "../../plots/Net";
import { Ghost } from "../../scene/Ghost";
import { decodeShape } from "../../scene/shape";

interface NetPanelProps {
  sweep: Sweep;
  study: Study;
  candidates: readonly Candidate[];
  /** The cost of every swept direction under the weights; null while they are not used. */
  costs: readonly number[] | null;
  duties: Duties | undefined;
  /** Least reserve of every swept direction, where a check answers for the job. */
  reserves: readonly number[] | null;
  /** The same of what bends, where something does. */
  arms: readonly number[] | null;
  pulls: { direction: Vec3; words: string }[];
  ghost: ReturnType<typeof decodeShape> | null;
  here: Candidate | null;
  chosen: Vec3 | null;
  onTake: (up: Vec3, rank: number | null) => void;
}

const NO_VALUES: readonly number[] = [];
const COST = { key: "cost", tab: "weighted", unit: "of 1", sentence: "cost by the weights, without time" } as const;

/** Every force of the job, by its direction. */
export function pullsOf(part: Part): { direction: Vec3; words: string }[] {
  return part.job.loads.cases.flatMap((c) =>
    c.loads.flatMap((l) =>
      l.kind === "force" && l.direction
        ? [{ direction: toVec3(l.direction), words: `${c.name}, ${l.amount.typed}` }]
        : [],
    ),
  );
}

export function NetPanel({
  sweep,
  study,
  candidates,
  costs,
  duties,
  reserves,
  arms,
  pulls,
  ghost,
  here,
  chosen,
  onTake,
}: NetPanelProps) {
  const [picked, setKey] = useState<FieldKey | DutyKey | "cost" | "reserve" | "arms" | null>(null);
  const [pointed, setPointed] = useState<Vec3 | null>(null);
  const asked = DUTY_FIELDS.filter((f) => duties?.[f.key]?.length === sweep.fields.height_mm.length);
  const [capped, bent] = useMemo(
    () =>
      [reserves, arms].map((field) =>
        field?.length === sweep.fields.height_mm.length ? field.map((r) => Math.min(r, PLENTY)) : null,
      ),
    [reserves, arms, sweep],
  );
  const fields = [...(capped ? [RESERVE] : []), ...(bent ? [ARMS] : []), ...FIELDS, ...asked, ...(costs ? [COST] : [])];
  const wanted = picked ?? (capped ? "reserve" : "overhang_area_mm2");
  const field = fields.find((f) => f.key === wanted) ?? (FIELDS[0] as Field);
  const { key } = field;
  const values =
    (key === "reserve"
      ? capped
      : key === "arms"
        ? bent
        : key === "cost"
          ? costs
          : key in sweep.fields
            ? sweep.fields[key as FieldKey]
            : duties?.[key as DutyKey]) ?? NO_VALUES;
  const low = useMemo(() => values.reduce((a, b) => Math.min(a, b), Infinity), [values]);
  const high = useMemo(() => values.reduce((a, b) => Math.max(a, b), -Infinity), [values]);
  const marks = useMemo(
    () =>
      candidates.map((c) => ({
        up: c.up,
        number: c.number,
        stands_out: c.nondominated,
        words: directionWords(toVec3(c.up)),
      })),
    [candidates],
  );
  const up = pointed ?? (here ? toVec3(here.up) : ([0, 0, 1] as Vec3));
  const row = nearestRow(sweep.ups, up);
  return (
    <div>
      <div className="mt-1 flex gap-3.5" role="tablist" aria-label="Field drawn on the net">
        {fields.map((f) => (
          <button
            key={f.key}
            type="button"
            role="tab"
            aria-selected={f.key === key}
            onClick={() => setKey(f.key)}
            className={`border-b-2 pb-0.5 ${f.key === key ? "border-ink font-bold" : "border-transparent text-second hover:text-ink"}`}
          >
            {f.tab}
          </button>
        ))}
      </div>
      <div className="mt-1 flex gap-2">
        <Net
          ups={sweep.ups}
          values={values}
          low={low}
          high={high}
          fails={key === "reserve" || key === "arms" ? 1 : undefined}
          marks={marks}
          selected={here?.number ?? null}
          chosen={chosen}
          pointed={pointed}
          pulls={pulls}
          radius={93}
          onPoint={setPointed}
          onTake={onTake}
        />
        <div className="flex min-w-0 flex-1 flex-col border-l border-rule pl-2" data-testid="pointed">
          <p className="narrow text-[11px] text-second">{pointed ? "pointed at" : "on the desk"}</p>
          <p className="narrow text-[12px] font-semibold leading-4" data-testid="pointed-words">
            {directionWords(up)}
          </p>
          <div className="h-[100px]">
            {ghost && (
              <Ghost
                shape={ghost}
                up={up}
                limit={study.process.limit}
                label={`The part standing with ${directionWords(up)}`}
              />
            )}
          </div>
          <dl className="narrow grid grid-cols-[1fr_auto] gap-x-1 text-[11.5px] leading-[1.35]">
            {[
              { tab: RESERVE.tab, of: capped && reserves },
              { tab: ARMS.tab, of: bent && arms },
            ].map(
              ({ tab, of }) =>
                of && (
                  <div key={tab} className="contents">
                    <dt className="text-second">{tab}</dt>
                    <dd
                      className={`figure text-right text-[11px] ${(of[row] ?? 1) < 1 ? "font-semibold text-crown" : ""}`}
                    >
                      {writeReserve(of[row])}
                    </dd>
                  </div>
                ),
            )}
            {[
              ...FIELDS.map((f) => ({ ...f, value: sweep.fields[f.key][row] })),
              ...asked.map((f) => ({ ...f, value: duties?.[f.key]?.[row] })),
            ].map((f) => (
              <div key={f.key} className="contents">
                <dt className="text-second">{f.tab}</dt>
                <dd className="figure text-right text-[11px]">
                  {f.key === "bores_lying" ? figure(f.value, 0) : measure(f.value)} {f.unit}
                </dd>
              </div>
            ))}
          </dl>
        </div>
      </div>
      <Legend field={field} low={low} high={high} limit={study.process.limit} pulls={pulls.length > 0} />
    </div>
  );
}

function Legend({
  field,
  low,
  high,
  limit,
  pulls,
}: {
  field: Pick<Field, "unit" | "sentence">;
  low: number;
  high: number;
  limit: number;
  pulls: boolean;
}) {
  const even = isEven(low, high);
  const colours = even ? RAMP.slice(0, 1) : RAMP;
  return (
    <div className="mt-1 mb-2 flex items-center gap-2">
      {!even && <span className="figure text-[11px]">{measure(low)}</span>}
      <svg width={14 * colours.length} height="10" aria-hidden="true">
        {colours.map((c, i) => (
          <rect key={c} x={i * 14} width="14" height="10" fill={c} />
        ))}
        <rect
          x="0.5"
          y="0.5"
          width={14 * colours.length - 1}
          height="9"
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1"
        />
      </svg>
      <span className="figure text-[11px]">
        {field.unit ? measure(high) : `${figure(high, 1)}${high >= PLENTY ? "+" : ""}`}
        {field.unit ? ` ${field.unit}` : ""}
      </span>
      {even && <span className="narrow whitespace-nowrap">in every direction:</span>}
      <span className="narrow truncate text-second">
        {field.sentence}
        {field.unit ? `; limit ${figure(limit, 0)}° from vertical` : ""}
        {pulls && (
          <>
            {" "}
            · <span className="text-crown">◇</span> across a pull
          </>
        )}
      </span>
    </div>
  );
}
