/** The desk of directions: the net, the candidates, the specimen, the decision. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { type Candidate, type Desk as DeskContent, type Duties, type Part, type Study, type Weights, api } from "../../api/client";
import { type Sweep, isOpen, useDuties, useJobWriter, useRanking, useReserveNet, useSend, useSession, useShape, useStrength, useStudy, useSweep, useWork } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { DUTY_FIELDS, type DutyKey, FIELDS, type Field, type FieldKey, RESERVE } from "../../domain/measures";
import { nearestRow } from "../../domain/net";
import { mayEdit } from "../../domain/roles";
import { RAMP } from "../../domain/ramp";
import { PLENTY, reserve as writeReserve } from "../../domain/strength";
import { type Vec3, directionWords, sameDirection, toVec3 } from "../../domain/vectors";
import { Net } from "../../plots/Net";
import { Ghost } from "../../scene/Ghost";
import { decodeShape } from "../../scene/shape";
import { type Command, useCommands } from "../../ui/commands";
import { Heading, Progress, Tabs, Trouble } from "../../ui/controls";
import { Afterwards } from "./Afterwards";
import { Candidates } from "./Candidates";
import { Desk } from "./Desk";
import { ProcessLine } from "./ProcessLine";
import { LETTERS } from "./SideBySide";
import { WeightStrip } from "./Weights";

/** `asked`: a direction that a link leads to; it is sliced where it is no candidate yet. */
export function Direction({ part, asked: wanted = null }: { part: Part; asked?: Vec3 | null }) {
  const study = useStudy(part.study);
  const sweep = useSweep(part.study, study.data?.swept);
  // The net is what somebody came for: drawing a large part must not hold it up.
  const view = useShape(part.id, sweep.data ? part.view : undefined);
  const ghostData = useShape(part.id, sweep.data ? part.ghost : undefined);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const ghost = useMemo(() => (ghostData.data ? decodeShape(ghostData.data) : null), [ghostData.data]);
  const [taken, setTaken] = useState<Vec3 | null>(wanted);
  const client = useQueryClient();
  const check = useStrength(part).data?.check;
  const holds = check && check.stale_because.length === 0 ? check : null;
  const reserves = useReserveNet(holds).data;
  const net = holds?.net;
  useEffect(() => {
    // Another answer of the check is another reserve of every candidate.
    if (net) void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] === "study" || queryKey[0] === "ranking" });
  }, [net, client]);
  const role = useSession().data?.role;
  const desk = useDesk(part);
  const duties = useDuties(part.study, study.data?.swept, part.version);
  const ranking = useRanking(part.study, desk.weights, study.data?.candidates.length ?? 0, study.data?.swept);

  const places = useMemo(() => {
    const all = study.data?.candidates ?? [];
    const ranks = desk.weights && ranking.data?.ranks.length === all.length ? ranking.data.ranks : null;
    return new Map(all.map((c, i) => [c, ranks?.[i] ?? c.rank]));
  }, [study.data, desk.weights, ranking.data]);
  const candidates = useMemo(() => [...places.keys()].sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0)), [places]);
  const find = useCallback((up: readonly number[]) => candidates.find((c) => sameDirection(c.up, up)) ?? null, [candidates]);
  const here = useMemo(() => {
    const decided = part.choice ?? part.carried;
    const first = taken ?? (decided ? toVec3(decided.up) : null);
    return (first && find(first)) ?? (taken ? null : (candidates[0] ?? null));
  }, [taken, candidates, find, part.choice, part.carried]);
  const pinned = useMemo(() => desk.pins.map(find), [desk.pins, find]);
  const letters = useMemo(() => new Map(pinned.flatMap((c, i) => (c ? [[c, LETTERS[i] ?? ""] as const] : []))), [pinned]);

  const asked = useAskDirection(part.study, () => void client.invalidateQueries({ queryKey: ["study", part.study] }));
  const { ask } = asked;
  const take = useCallback(
    (up: Vec3, rank: number | null) => {
      if (rank === null && !mayEdit(role)) return;
      setTaken(up);
      if (rank === null && !candidates.some((c) => sameDirection(c.up, up))) void ask(up);
    },
    [candidates, ask, role],
  );
  const sent = useRef(false);
  const unknown = wanted !== null && study.data !== undefined && !isOpen(study.data.work) && find(wanted) === null;
  useEffect(() => {
    if (!unknown || sent.current || !mayEdit(role)) return;
    sent.current = true;
    void ask(wanted);
  }, [unknown, wanted, ask, role]);
  const { setPins } = desk;
  const pin = useMemo(
    () => (here && mayEdit(role) && desk.pins.length < LETTERS.length && !letters.has(here) ? () => setPins([...desk.pins, here.up]) : null),
    [here, role, desk.pins, letters, setPins],
  );
  const unpin = useMemo(() => (mayEdit(role) ? (place: number) => setPins(desk.pins.filter((_, i) => i !== place)) : null), [role, desk.pins, setPins]);

  const commands = useMemo<Command[]>(() => {
    const step = (by: number) => {
      const next = candidates[(here ? candidates.indexOf(here) : -1) + by];
      if (next) take(toVec3(next.up), next.rank);
    };
    const out: Command[] = [
      { name: "Next candidate", keys: "]", run: () => step(1) },
      { name: "Previous candidate", keys: "[", run: () => step(-1) },
      { name: "Print the comparison", keys: "o", run: () => window.open(api.comparisonAddress(part.study), "_blank", "noopener") },
      ...candidates.map((c) => ({ name: `Candidate ${places.get(c)}: ${directionWords(toVec3(c.up))}`, run: () => take(toVec3(c.up), c.rank) })),
    ];
    if (mayEdit(role)) {
      out.push({ name: "Give the reason, and use this direction", keys: "w", run: () => document.getElementById("reason")?.focus() });
      const lies = here ? letters.get(here) : undefined;
      if (lies && unpin) out.push({ name: `Unpin ${lies}`, keys: "=", run: () => unpin(LETTERS.findIndex((l) => l === lies)) });
      else if (pin) out.push({ name: "Pin this direction beside others", keys: "=", run: pin });
    }
    return out;
  }, [candidates, here, take, places, part.study, role, letters, pin, unpin]);
  useCommands(commands);
  const [order, setOrder] = useState<"plain" | "after">("plain");

  if (study.error) return <div className="p-5"><Trouble message={study.error.message} hint="Reload the page." /></div>;
  return (
    <div className="grid h-full min-h-0 grid-cols-[610px_1fr]">
      <section className="flex min-h-0 flex-col border-r border-ink px-3.5 pt-3">
        <Heading aside={study.data && <ProcessLine part={part} process={study.data.process} mayAsk={mayEdit(role)} />}>Build directions</Heading>
        {sweep.data && study.data ? (
          <NetPanel
            key={study.data.id}
            sweep={sweep.data}
            study={study.data}
            places={places}
            duties={duties.data}
            reserves={holds && reserves ? reserves.least : null}
            pulls={pullsOf(part)}
            costs={desk.weights ? (ranking.data?.field ?? null) : null}
            ghost={ghost}
            here={here}
            chosen={part.choice ? toVec3(part.choice.up) : null}
            onTake={take}
          />
        ) : (
          <div className="grid h-[318px] place-items-center text-second">
            {study.data && !isOpen(study.data.work) ? "The sweep was stopped. Study again with the line above." : "Sweeping the directions …"}
          </div>
        )}
        {study.data && isOpen(study.data.work) && (
          <Progress doing={study.data.work.doing} done={study.data.work.done} total={study.data.work.total} onCancel={!mayEdit(role) ? undefined : () => study.data && void api.cancel(study.data.work.id)} />
        )}
        {study.data?.work.problem && <Trouble message={study.data.work.problem.message} hint={study.data.work.problem.hint} />}
        {study.data?.stale && <Trouble message="This study was made by an earlier engine." hint="Study again to calculate it anew." />}
        {desk.trouble && <Trouble message={desk.trouble.message} hint={desk.trouble.hint} clashes={desk.trouble.clashes} />}
        <WeightStrip weights={desk.weights} onChange={desk.setWeights} mayEdit={mayEdit(role)} />
        <Tabs tabs={ORDERS} here={order} onPick={setOrder} label="The order of directions, as they are or after remedies" className="pb-1" />
        {order === "after" && <Afterwards part={part} may={mayEdit(role)} here={here ? toVec3(here.up) : null} onTake={take} />}
        {order === "plain" && <Candidates coarse={holds?.level === "coarse"} candidates={candidates} here={here} places={places} letters={letters} chosen={part.choice?.up ?? null} onTake={take} />}
      </section>
      <Desk
        part={part}
        coarse={holds?.level === "coarse"}
        study={study.data}
        here={here}
        place={here ? (places.get(here) ?? null) : null}
        up={here ? toVec3(here.up) : (taken ?? [0, 0, 1])}
        shape={shape}
        waiting={asked.waiting}
        trouble={asked.trouble}
        pinned={pinned}
        ghost={ghost}
        onTake={(c) => take(toVec3(c.up), c.rank)}
        onTurn={mayEdit(role) ? (to) => take(to, null) : null}
        onPin={pin}
        onUnpin={unpin}
      />
    </div>
  );
}

const ORDERS = [
  ["plain", "as they are"],
  ["after", "after remedies"],
] as const;

/** Weights and pins: shown as they are moved, written to the job when the hand has left. */
function useDesk(part: Part) {
  const { write: writeJob, trouble } = useJobWriter(part);
  const [draft, setDraft] = useState<DeskContent | null>(null);
  const now = draft ?? part.desk;
  const write = (next: DeskContent) => {
    setDraft(next);
    void writeJob(() => ({ desk: { ...next } })).then(() => setDraft((d) => (d === next ? null : d)));
  };
  const setWeights = (weights: Weights | null, settled: boolean) => {
    const next = { ...now, weights };
    if (settled) write(next);
    else setDraft(next);
  };
  const setPins = (pins: number[][]) => write({ ...now, pins });
  const latest = useRef({ setWeights, setPins });
  useEffect(() => {
    latest.current = { setWeights, setPins };
  });
  const stable = useMemo(
    () => ({
      setWeights: (w: Weights | null, settled: boolean) => latest.current.setWeights(w, settled),
      setPins: (pins: number[][]) => latest.current.setPins(pins),
    }),
    [],
  );
  return { weights: now.weights ?? null, pins: now.pins ?? NO_PINS, trouble, ...stable };
}

const NO_PINS: number[][] = [];

/** Slicing of a direction that is no candidate yet. */
function useAskDirection(study: string, onDone: () => void) {
  const [order, setOrder] = useState<string>();
  const [ended, setEnded] = useState<{ message: string; hint: string } | null>(null);
  const { send, trouble } = useSend();
  useWork(order, (work) => {
    setOrder(undefined);
    setEnded(work.problem);
    onDone();
  });
  const latest = useRef(send);
  useEffect(() => {
    latest.current = send;
  });
  const ask = useCallback(
    async (up: Vec3) => {
      setEnded(null);
      const work = await latest.current(() => api.askDirection(study, up));
      setOrder(work?.id);
    },
    [study],
  );
  return { ask, waiting: order !== undefined, trouble: trouble ?? ended };
}

interface NetPanelProps {
  sweep: Sweep;
  study: Study;
  places: ReadonlyMap<Candidate, number>;
  /** The cost of every swept direction under the weights; null while they are not used. */
  costs: readonly number[] | null;
  duties: Duties | undefined;
  /** Least reserve of every swept direction, where a check answers for the job. */
  reserves: readonly number[] | null;
  pulls: { direction: Vec3; words: string }[];
  ghost: ReturnType<typeof decodeShape> | null;
  here: Candidate | null;
  chosen: Vec3 | null;
  onTake: (up: Vec3, rank: number | null) => void;
}

const NO_VALUES: readonly number[] = [];
const COST = { key: "cost", tab: "weighted", unit: "of 1", sentence: "cost by the weights, without time" } as const;

/** Every force of the job, by its direction. */
function pullsOf(part: Part): { direction: Vec3; words: string }[] {
  return part.job.loads.cases.flatMap((c) => c.loads.flatMap((l) => (l.kind === "force" && l.direction ? [{ direction: toVec3(l.direction), words: `${c.name}, ${l.amount.typed}` }] : [])));
}

function NetPanel({ sweep, study, places, costs, duties, reserves, pulls, ghost, here, chosen, onTake }: NetPanelProps) {
  const [picked, setKey] = useState<FieldKey | DutyKey | "cost" | "reserve" | null>(null);
  const [pointed, setPointed] = useState<Vec3 | null>(null);
  const asked = DUTY_FIELDS.filter((f) => duties?.[f.key]?.length === sweep.fields.height_mm.length);
  const capped = useMemo(() => (reserves?.length === sweep.fields.height_mm.length ? reserves.map((r) => Math.min(r, PLENTY)) : null), [reserves, sweep]);
  const fields = [...(capped ? [RESERVE] : []), ...FIELDS, ...asked, ...(costs ? [COST] : [])];
  const wanted = picked ?? (capped ? "reserve" : "overhang_area_mm2");
  const field = fields.find((f) => f.key === wanted) ?? (FIELDS[0] as Field);
  const { key } = field;
  const values = (key === "reserve" ? capped : key === "cost" ? costs : key in sweep.fields ? sweep.fields[key as FieldKey] : duties?.[key as DutyKey]) ?? NO_VALUES;
  const low = useMemo(() => values.reduce((a, b) => Math.min(a, b), Infinity), [values]);
  const high = useMemo(() => values.reduce((a, b) => Math.max(a, b), -Infinity), [values]);
  const marks = useMemo(
    () => [...places].map(([c, place]) => ({ up: c.up, rank: place, stands_out: c.nondominated, words: directionWords(toVec3(c.up)) })),
    [places],
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
        <Net ups={sweep.ups} values={values} low={low} high={high} fails={key === "reserve" ? 1 : undefined} marks={marks} selected={here ? (places.get(here) ?? null) : null} chosen={chosen} pointed={pointed} pulls={pulls} radius={93} onPoint={setPointed} onTake={onTake} />
        <div className="flex min-w-0 flex-1 flex-col border-l border-rule pl-2" data-testid="pointed">
          <p className="narrow text-[11px] text-second">{pointed ? "pointed at" : "on the desk"}</p>
          <p className="narrow text-[12px] font-semibold leading-4" data-testid="pointed-words">{directionWords(up)}</p>
          <div className="h-[100px]">{ghost && <Ghost shape={ghost} up={up} limit={study.process.limit} label={`The part standing with ${directionWords(up)}`} />}</div>
          <dl className="narrow grid grid-cols-[1fr_auto] gap-x-1 text-[11.5px] leading-[1.35]">
            {capped && (
              <div className="contents">
                <dt className="text-second">reserve</dt>
                <dd className={`figure text-right text-[11px] ${(capped[row] ?? 1) < 1 ? "font-semibold text-crown" : ""}`}>{writeReserve(capped[row])}</dd>
              </div>
            )}
            {[...FIELDS.map((f) => ({ ...f, value: sweep.fields[f.key][row] })), ...asked.map((f) => ({ ...f, value: duties?.[f.key]?.[row] }))].map((f) => (
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

function Legend({ field, low, high, limit, pulls }: { field: Pick<Field, "unit" | "sentence">; low: number; high: number; limit: number; pulls: boolean }) {
  return (
    <div className="mt-1 mb-2 flex items-center gap-2">
      <span className="figure text-[11px]">{measure(low)}</span>
      <svg width="98" height="10" aria-hidden="true">
        {RAMP.map((c, i) => (
          <rect key={c} x={i * 14} width="14" height="10" fill={c} />
        ))}
        <rect x="0.5" y="0.5" width="97" height="9" fill="none" stroke="var(--color-ink)" strokeWidth="1" />
      </svg>
      <span className="figure text-[11px]">
        {field.unit ? measure(high) : `${figure(high, 1)}${high >= PLENTY ? "+" : ""}`}
        {field.unit ? ` ${field.unit}` : ""}
      </span>
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
