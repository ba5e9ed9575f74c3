/** The desk of directions: the net, the candidates, the specimen, the decision. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";

import { ApiProblem, type Candidate, type Part, type Study, api } from "../../api/client";
import { type Sweep, isOpen, useSession, useShape, useStudy, useSweep, useWork } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { FIELDS, type Field, type FieldKey } from "../../domain/measures";
import { nearestRow } from "../../domain/net";
import { mayEdit } from "../../domain/roles";
import { RAMP } from "../../domain/ramp";
import { type Vec3, directionWords, dot, toVec3 } from "../../domain/vectors";
import { Net } from "../../plots/Net";
import { Ghost } from "../../scene/Ghost";
import { decodeShape } from "../../scene/shape";
import { Heading, Progress, Trouble } from "../../ui/controls";
import { Candidates } from "./Candidates";
import { Desk } from "./Desk";
import { ProcessLine } from "./ProcessLine";

const same = (a: readonly number[], b: readonly number[]): boolean => dot(toVec3(a), toVec3(b)) > 1 - 1e-7;

export function Direction({ part }: { part: Part }) {
  const study = useStudy(part.study);
  const sweep = useSweep(part.study, study.data?.swept ?? false);
  const view = useShape(part.id, part.view);
  const ghostData = useShape(part.id, part.ghost);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const ghost = useMemo(() => (ghostData.data ? decodeShape(ghostData.data) : null), [ghostData.data]);
  const [taken, setTaken] = useState<Vec3 | null>(null);
  const client = useQueryClient();
  const role = useSession().data?.role;

  const candidates = useMemo(() => study.data?.candidates ?? [], [study.data]);
  const here = useMemo(() => {
    const wanted = taken ?? (part.choice ? toVec3(part.choice.up) : null);
    return (wanted && candidates.find((c) => same(c.up, wanted))) ?? (taken ? null : (candidates[0] ?? null));
  }, [taken, candidates, part.choice]);

  const asked = useAskDirection(part.study, () => void client.invalidateQueries({ queryKey: ["study", part.study] }));
  const { ask } = asked;
  const take = useCallback(
    (up: Vec3, rank: number | null) => {
      if (rank === null && !mayEdit(role)) return;
      setTaken(up);
      if (rank === null && !candidates.some((c) => same(c.up, up))) void ask(up);
    },
    [candidates, ask, role],
  );

  if (study.error) return <div className="p-5"><Trouble message={study.error.message} hint="Load the page again." /></div>;
  return (
    <div className="grid h-full min-h-0 grid-cols-[610px_1fr]">
      <section className="flex min-h-0 flex-col border-r border-ink px-3.5 pt-3">
        <Heading aside={study.data && <ProcessLine part={part.id} process={study.data.process} mayAsk={mayEdit(role)} />}>Every way it can stand</Heading>
        {sweep.data && study.data ? (
          <NetPanel key={study.data.id} sweep={sweep.data} study={study.data} ghost={ghost} here={here} chosen={part.choice ? toVec3(part.choice.up) : null} onTake={take} />
        ) : (
          <div className="grid h-[318px] place-items-center text-second">
            {study.data && !isOpen(study.data.work) ? "The sweep was stopped." : "Sweeping the directions …"}
          </div>
        )}
        {study.data && isOpen(study.data.work) && (
          <Progress doing={study.data.work.doing} done={study.data.work.done} total={study.data.work.total} onCancel={!mayEdit(role) ? undefined : () => study.data && void api.cancel(study.data.work.id)} />
        )}
        {study.data?.work.problem && <Trouble message={study.data.work.problem.message} hint={study.data.work.problem.hint} />}
        <Candidates candidates={candidates} here={here} chosen={part.choice?.up ?? null} onTake={take} />
      </section>
      <Desk
        part={part}
        study={study.data}
        here={here}
        up={here ? toVec3(here.up) : (taken ?? [0, 0, 1])}
        shape={shape}
        waiting={asked.waiting}
        trouble={asked.trouble}
      />
    </div>
  );
}

/** Slicing of a direction that is no candidate yet. */
function useAskDirection(study: string, onDone: () => void) {
  const [order, setOrder] = useState<string>();
  const [trouble, setTrouble] = useState<{ message: string; hint: string } | null>(null);
  useWork(order, (work) => {
    setOrder(undefined);
    if (work.problem) setTrouble(work.problem);
    onDone();
  });
  const ask = useCallback(
    async (up: Vec3) => {
      setTrouble(null);
      try {
        setOrder((await api.askDirection(study, up)).id);
      } catch (e) {
        if (e instanceof ApiProblem) setTrouble(e);
        else throw e;
      }
    },
    [study],
  );
  return { ask, waiting: order !== undefined, trouble };
}

interface NetPanelProps {
  sweep: Sweep;
  study: Study;
  ghost: ReturnType<typeof decodeShape> | null;
  here: Candidate | null;
  chosen: Vec3 | null;
  onTake: (up: Vec3, rank: number | null) => void;
}

function NetPanel({ sweep, study, ghost, here, chosen, onTake }: NetPanelProps) {
  const [key, setKey] = useState<FieldKey>("overhang_area_mm2");
  const [pointed, setPointed] = useState<Vec3 | null>(null);
  const field = FIELDS.find((f) => f.key === key) ?? (FIELDS[0] as Field);
  const values = sweep.fields[key];
  const low = useMemo(() => values.reduce((a, b) => Math.min(a, b), Infinity), [values]);
  const high = useMemo(() => values.reduce((a, b) => Math.max(a, b), -Infinity), [values]);
  const marks = useMemo(
    () => study.candidates.map((c) => ({ up: c.up, rank: c.rank, stands_out: c.nondominated, words: directionWords(toVec3(c.up)) })),
    [study.candidates],
  );
  const up = pointed ?? (here ? toVec3(here.up) : ([0, 0, 1] as Vec3));
  const row = nearestRow(sweep.ups, up);
  return (
    <div>
      <div className="mt-1 flex gap-4" role="tablist" aria-label="Field drawn on the net">
        {FIELDS.map((f) => (
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
        <Net ups={sweep.ups} values={values} low={low} high={high} marks={marks} selected={here?.rank ?? null} chosen={chosen} pointed={pointed} radius={93} onPoint={setPointed} onTake={onTake} />
        <div className="flex min-w-0 flex-1 flex-col border-l border-rule pl-2" data-testid="pointed">
          <p className="narrow text-[11px] text-second">{pointed ? "pointed at" : "on the desk"}</p>
          <p className="narrow text-[12px] font-semibold leading-4" data-testid="pointed-words">{directionWords(up)}</p>
          <div className="h-[100px]">{ghost && <Ghost shape={ghost} up={up} limit={study.process.limit} label={`The part standing with ${directionWords(up)}`} />}</div>
          <dl className="narrow grid grid-cols-[1fr_auto] gap-x-1 text-[11.5px] leading-[1.35]">
            {FIELDS.map((f) => (
              <div key={f.key} className="contents">
                <dt className="text-second">{f.tab}</dt>
                <dd className="figure text-right text-[11px]">
                  {measure(sweep.fields[f.key][row])} {f.unit}
                </dd>
              </div>
            ))}
          </dl>
        </div>
      </div>
      <Legend field={field} low={low} high={high} limit={study.process.limit} />
    </div>
  );
}

function Legend({ field, low, high, limit }: { field: Field; low: number; high: number; limit: number }) {
  return (
    <div className="mt-1 mb-2 flex items-center gap-2">
      <span className="figure text-[11px]">{measure(low)}</span>
      <svg width="140" height="10" aria-hidden="true">
        {RAMP.map((c, i) => (
          <rect key={c} x={i * 20} width="20" height="10" fill={c} />
        ))}
        <rect x="0.5" y="0.5" width="139" height="9" fill="none" stroke="#22261f" strokeWidth="1" />
      </svg>
      <span className="figure text-[11px]">
        {measure(high)} {field.unit}
      </span>
      <span className="narrow truncate text-second">
        {field.sentence}; limit {figure(limit, 0)}° from vertical
      </span>
    </div>
  );
}
