/** The desk of directions: the net, the candidates, the specimen, the decision. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { type Desk as DeskContent, type Part, type Weights, api } from "../../api/client";
import { useArmsNet } from "../../api/fit";
import {
  useDuties,
  useJobWriter,
  useRanking,
  useRefresh,
  useSend,
  useShape,
  useStudy,
  useSweep,
  useWork,
} from "../../api/queries";
import { useStage } from "../../api/stage";
import { useHoldingCheck, useReserveNet } from "../../api/strength";
import { typedDirection } from "../../domain/needs";
import { type Vec3, directionWords, sameDirection, toVec3, writeDirection } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { decodeShape } from "../../scene/shape";
import { StageState } from "../../ui/StageHeader";
import { useInAddress, useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Heading, Tabs, Trouble } from "../../ui/controls";
import { AfterRemedies } from "./AfterRemedies";
import { Candidates } from "./Candidates";
import { Desk } from "./Desk";
import { NetPanel, pullsOf } from "./NetPanel";
import { ProcessLine } from "./ProcessLine";
import { LETTERS } from "./SideBySide";
import { WeightStrip } from "./Weights";

export function Direction({ part }: { part: Part }) {
  const [linked, putInAddress] = useInAddress("up");
  const study = useStudy(part.study);
  const sweep = useSweep(part.study, study.data?.swept);
  // The net is what somebody came for: drawing a large part must not hold it up.
  const view = useShape(part.id, sweep.data ? part.view : undefined);
  const ghostData = useShape(part.id, sweep.data ? part.ghost : undefined);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const ghost = useMemo(() => (ghostData.data ? decodeShape(ghostData.data) : null), [ghostData.data]);
  const [taken, setTaken] = useState<Vec3 | null>(() => (linked ? typedDirection(linked) : null)); // a link may lead to a direction
  const client = useQueryClient();
  const holds = useHoldingCheck(part);
  const reserves = useReserveNet(holds).data;
  const arms = useArmsNet(part).data;
  const { may, calculate, trouble, onStop } = useStage(part, "directions");
  const refresh = useRefresh();
  const desk = useDesk(part);
  const duties = useDuties(part.study, study.data?.swept, part.version);
  const ranking = useRanking(part.study, desk.weights, study.data?.candidates.length ?? 0, study.data?.swept);

  const places = useMemo(() => {
    const all = study.data?.candidates ?? [];
    const ranks = desk.weights && ranking.data?.ranks.length === all.length ? ranking.data.ranks : null;
    return new Map(all.map((c, i) => [c, ranks?.[i] ?? c.rank]));
  }, [study.data, desk.weights, ranking.data]);
  const candidates = useMemo(
    () => [...places.keys()].sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0)),
    [places],
  );
  const find = useCallback(
    (up: readonly number[]) => candidates.find((c) => sameDirection(c.up, up)) ?? null,
    [candidates],
  );
  const here = useMemo(() => {
    const decided = part.choice ?? part.carried;
    const first = taken ?? (decided ? toVec3(decided.up) : null);
    return (first && find(first)) ?? (taken ? null : (candidates[0] ?? null));
  }, [taken, candidates, find, part.choice, part.carried]);
  const pinned = useMemo(() => desk.pins.map(find), [desk.pins, find]);
  const letters = useMemo(
    () => new Map(pinned.flatMap((c, i) => (c ? [[c, LETTERS[i] ?? ""] as const] : []))),
    [pinned],
  );

  const asked = useAskDirection(part.study, () => void client.invalidateQueries({ queryKey: ["study", part.study] }));
  const { ask } = asked;
  const take = useCallback(
    (up: Vec3, rank: number | null) => {
      if (rank === null && !may) return;
      setTaken(up);
      putInAddress(writeDirection(up), true);
      if (rank === null && !candidates.some((c) => sameDirection(c.up, up))) void ask(up);
    },
    [candidates, ask, may, putInAddress],
  );
  const unknown = taken !== null && here === null && study.data !== undefined && !isOpen(study.data.work);
  const { setPins } = desk;
  const pin = useMemo(
    () =>
      here && may && desk.pins.length < LETTERS.length && !letters.has(here)
        ? () => setPins([...desk.pins, here.up])
        : null,
    [here, may, desk.pins, letters, setPins],
  );
  const unpin = useMemo(
    () => (may ? (place: number) => setPins(desk.pins.filter((_, i) => i !== place)) : null),
    [may, desk.pins, setPins],
  );

  const commands = useMemo<Command[]>(() => {
    const step = (by: number) => {
      const next = candidates[(here ? candidates.indexOf(here) : -1) + by];
      if (next) take(toVec3(next.up), next.rank);
    };
    const out: Command[] = [
      { name: "Next candidate", keys: "]", run: () => step(1) },
      { name: "Previous candidate", keys: "[", run: () => step(-1) },
      {
        name: "Print the comparison",
        keys: "o",
        run: () => window.open(api.comparisonAddress(part.study), "_blank", "noopener"),
      },
      ...candidates.map((c) => ({
        name: `Candidate ${c.number}: ${directionWords(toVec3(c.up))}`,
        run: () => take(toVec3(c.up), c.rank),
      })),
    ];
    if (may) {
      out.push({
        name: "Give the reason, and use this direction",
        keys: "w",
        run: () => document.getElementById("reason")?.focus(),
      });
      const lies = here ? letters.get(here) : undefined;
      if (lies && unpin)
        out.push({ name: `Unpin ${lies}`, keys: "=", run: () => unpin(LETTERS.findIndex((l) => l === lies)) });
      else if (pin) out.push({ name: "Pin this direction beside others", keys: "=", run: pin });
    }
    return out;
  }, [candidates, here, take, part.study, may, letters, pin, unpin]);
  useCommands(commands);
  const [order, setOrder] = useView("order", ORDER_KEYS);

  if (study.error)
    return (
      <div className="p-5">
        <Trouble message={study.error.message} hint="Reload the page." />
      </div>
    );
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[610px_minmax(0,1fr)] max-[1180px]:grid-cols-[minmax(0,1fr)_300px]">
      <section className="flex min-h-0 flex-col border-r border-ink px-3.5 pt-3">
        <Heading aside={study.data && <ProcessLine part={part} process={study.data.process} mayAsk={may} />}>
          Build directions
        </Heading>
        {sweep.data && study.data ? (
          <NetPanel
            key={study.data.id}
            sweep={sweep.data}
            study={study.data}
            candidates={candidates}
            duties={duties.data}
            reserves={holds && reserves ? reserves.least : null}
            arms={arms ?? null}
            pulls={pullsOf(part)}
            costs={desk.weights ? (ranking.data?.field ?? null) : null}
            ghost={ghost}
            here={here}
            chosen={part.choice ? toVec3(part.choice.up) : null}
            onTake={take}
          />
        ) : (
          <div className="grid h-[318px] place-items-center text-second">
            {study.data === undefined || study.data.swept
              ? "Reading the sweep …"
              : isOpen(study.data.work)
                ? "Sweeping the directions …"
                : "The sweep was stopped."}
          </div>
        )}
        {study.data && (
          <StageState
            result={study.data}
            complete={study.data.work.state === "done"}
            verb="Study directions"
            onCalculate={
              may
                ? () =>
                    calculate(() => api.calculateStudy(part.id, part.version, part.process.given)).then(() =>
                      refresh(part),
                    )
                : null
            }
            onStop={onStop}
            trouble={trouble}
          />
        )}
        {desk.trouble && (
          <Trouble message={desk.trouble.message} hint={desk.trouble.hint} clashes={desk.trouble.clashes} />
        )}
        <WeightStrip weights={desk.weights} onChange={desk.setWeights} mayEdit={may} />
        <Tabs
          tabs={ORDERS}
          here={order}
          onPick={setOrder}
          label="The order of directions, as they are or after remedies"
          className="pb-1"
        />
        {order === "after" && (
          <AfterRemedies part={part} may={may} here={here ? toVec3(here.up) : null} onTake={take} />
        )}
        {order === "plain" && (
          <Candidates
            coarse={holds?.level === "coarse"}
            candidates={candidates}
            here={here}
            places={places}
            letters={letters}
            chosen={part.choice?.up ?? null}
            onTake={take}
          />
        )}
      </section>
      <Desk
        part={part}
        coarse={holds?.level === "coarse"}
        study={study.data}
        here={here}
        place={here?.number ?? null}
        up={here ? toVec3(here.up) : (taken ?? [0, 0, 1])}
        shape={shape}
        waiting={asked.waiting}
        onAsk={unknown && may ? () => void ask(taken) : null}
        trouble={asked.trouble}
        pinned={pinned}
        ghost={ghost}
        onTake={(c) => take(toVec3(c.up), c.rank)}
        onTurn={may ? (to) => take(to, null) : null}
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
const ORDER_KEYS = ORDERS.map(([key]) => key);

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
  const ask = useCallback(
    async (up: Vec3) => {
      setEnded(null);
      const work = await send(() => api.askDirection(study, up));
      setOrder(work?.id);
    },
    [study, send],
  );
  return { ask, waiting: order !== undefined, trouble: trouble ?? ended };
}
