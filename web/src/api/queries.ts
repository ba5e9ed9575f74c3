/** What the page knows of the server, kept fresh while something is being computed. */
import { notifyManager, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useEffectEvent, useRef, useState } from "react";

import { decodeOutlines } from "../domain/layers";
import { mayEdit } from "../domain/roles";
import { isOpen } from "../domain/work";
import { takeAnswer } from "./answers";
import {
  ApiProblem,
  type WallAnalysis,
  type Job,
  type Division,
  type Part,
  type Proposal,
  type Sections,
  type SweepOut,
  type OverhangAnalysis,
  type Weights,
  type Work,
  api,
  onWritten,
} from "./client";

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: api.session,
    retry: (n, e) => !(e instanceof ApiProblem) && n < 2,
    staleTime: 60_000,
  });

/** Whether who is signed in may write on a job: an engineer, until it has been released. */
export function useMayWrite(part: Pick<Part, "frozen">): boolean {
  const role = useSession().data?.role;
  return mayEdit(role) && !part.frozen;
}

/** Milliseconds to the next look at what is being calculated: while nothing of it is known yet, and afterwards. */
const SEE_FIRST = 300;
export const SEE_AGAIN = 800;

export const useParts = () => useQuery({ queryKey: ["parts"], queryFn: api.parts, refetchInterval: 5000 });

/** A part; looked at again while its bores are being found. */
export const usePart = (id: string) =>
  useQuery({
    queryKey: ["part", id],
    queryFn: () => api.part(id),
    retry: 1,
    refetchInterval: (q) => (q.state.data?.facts.bores === null ? SEE_AGAIN : false),
  });

/** Every stage of a part and how far it is; looked at again while something is computed for one of them. */
export const useStages = (part: Pick<Part, "id" | "version" | "study"> | undefined) => {
  const client = useQueryClient();
  // An order changes nothing of the part that the page would see by itself.
  useEffect(() => onWritten(() => void client.invalidateQueries({ queryKey: ["stages"] })), [client]);
  return useQuery({
    queryKey: ["stages", part?.id, part?.version, part?.study],
    queryFn: () => api.stages(part?.id ?? ""),
    enabled: part !== undefined,
    placeholderData: (before, query) => (query?.queryKey[1] === part?.id ? before : undefined),
    refetchInterval: (q) => (q.state.data?.some((row) => row.busy) ? SEE_AGAIN : false),
  });
};

/** How far the stages of the parts in sight are, by the part's id. */
export const useStandings = (parts: readonly string[]) =>
  useQuery({
    queryKey: ["stages", "all", parts],
    queryFn: async () => new Map((await api.standings(parts)).map((row) => [row.part, row.stages])),
    enabled: parts.length > 0,
    placeholderData: (before) => before,
    refetchInterval: (q) => ([...(q.state.data?.values() ?? [])].flat().some((row) => row.busy) ? 3000 : false),
  });

export const useShape = (part: string, digest: string | undefined) =>
  useQuery({
    queryKey: ["shape", digest],
    queryFn: () => api.shape(part, digest ?? ""),
    enabled: digest !== undefined,
    staleTime: Infinity,
  });

export const useStudy = (id: string | undefined) =>
  useQuery({
    queryKey: ["study", id],
    queryFn: () => api.study(id ?? ""),
    enabled: id !== undefined,
    refetchInterval: (q) => (isOpen(q.state.data?.work) ? (q.state.data?.swept ? SEE_AGAIN : SEE_FIRST) : false),
  });

/** All swept directions, their vectors packed for quick searching. */
export interface Sweep {
  ups: Float32Array;
  fields: SweepOut["fields"];
}

export const useSweep = (study: string, digest: string | null | undefined) =>
  useQuery({
    queryKey: ["sweep", study, digest],
    queryFn: async (): Promise<Sweep> => {
      const { ups, fields } = await api.sweep(study, digest ?? "");
      return { ups: Float32Array.from(ups.flat()), fields };
    },
    enabled: !!digest,
    placeholderData: (before, query) => (query?.queryKey[1] === study ? before : undefined),
    staleTime: Infinity,
  });

/** Follows one piece of work; `onTold` is called once, with its end or with what it tells before. */
export function useWork(id: string | undefined, onTold: (work: Work) => void) {
  const query = useQuery({
    queryKey: ["work", id],
    queryFn: () => api.work(id ?? ""),
    enabled: id !== undefined,
    refetchInterval: (q) => (q.state.data === undefined || isOpen(q.state.data) ? SEE_FIRST : false),
  });
  const client = useQueryClient();
  const work = query.data;
  const result = work !== undefined && work.id === id && (!isOpen(work) || work.result !== null);
  const tell = useEffectEvent(() => work && onTold(work));
  useEffect(() => {
    if (result) tell();
  }, [result, id]);
  return { work, refresh: () => client.invalidateQueries({ queryKey: ["work", id] }) };
}

export const useBin = () => useQuery({ queryKey: ["bin"], queryFn: api.bin });

export const useHistory = (sheet: string, wanted = true) =>
  useQuery({ queryKey: ["history", sheet], queryFn: () => api.history(sheet), enabled: wanted, staleTime: 0 });

export const useRanking = (
  study: string,
  weights: Weights | null,
  candidates: number,
  swept: string | null | undefined,
) =>
  useQuery({
    queryKey: ["ranking", study, weights, candidates, swept],
    queryFn: () => api.ranking(study, weights ?? ({} as Weights)),
    enabled: weights !== null && candidates > 0,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

export const useNeeds = (part: Pick<Part, "id" | "version">) =>
  useQuery({
    queryKey: ["needs", part.id, part.version],
    queryFn: () => api.needs(part.id),
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

/** The spaces that stay free, drawn; asked again when they, or the faces that they lie at, have changed. */
export const useSpaces = (part: Pick<Part, "id" | "job">, wanted: boolean) =>
  useQuery({
    queryKey: ["spaces", part.id, part.job.spaces, part.job.regions.rows],
    queryFn: () => api.spaces(part.id),
    enabled: wanted,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

/** The region of every facet; asked again when the regions have changed. */
export const usePaint = (part: Pick<Part, "id" | "job">) =>
  useQuery({
    queryKey: ["paint", part.id, part.job.regions.rows],
    queryFn: () => api.paint(part.id),
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

export const useDuties = (study: string, swept: string | null | undefined, version: number) =>
  useQuery({
    queryKey: ["duties", study, swept, version],
    queryFn: () => api.duties(study),
    enabled: !!swept,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

export const useBoresIn = (
  part: Pick<Part, "id" | "version" | "study">,
  up: readonly [number, number, number],
  wanted: boolean,
) =>
  useQuery({
    queryKey: ["bores-in", part.id, part.version, part.study, up],
    queryFn: () => api.boresIn(part.id, up),
    enabled: wanted,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

/** Whether the server has yet to look at a part, as it does once the part's directions are known. */
const awaitsFirstLook = (part: Pick<Part, "facts">, analysis: { up: number[] | null } | null | undefined) =>
  part.facts.watertight && !analysis?.up;

/** What hangs; looked at again while the layers are being checked. */
export const useOverhangs = (part: Pick<Part, "id" | "version" | "study" | "facts">) =>
  useQuery({
    queryKey: ["overhangs", part.id, part.version, part.study],
    queryFn: () => api.overhangs(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) =>
      isOpen(q.state.data?.analysis?.work) ? SEE_AGAIN : awaitsFirstLook(part, q.state.data?.analysis) ? 1500 : false,
  });

const OUTLINES = { what: "outlines", read: decodeOutlines } as const;
const FACETS = { what: "facets", read: (data: ArrayBuffer) => new Int16Array(data) } as const;

function useLayerBytes<T>(
  analysis: string | undefined,
  digest: string | null | undefined,
  { what, read }: { what: "outlines" | "facets"; read: (data: ArrayBuffer) => T },
) {
  return useQuery({
    queryKey: ["layer-bytes", analysis, what, digest],
    queryFn: async () => read(await api.layerBytes(analysis ?? "", what, digest ?? "")),
    enabled: !!analysis && !!digest,
    staleTime: Infinity,
  });
}

export const useOutlines = (analysis: OverhangAnalysis | null | undefined) =>
  useLayerBytes(analysis?.id, analysis?.outlines, OUTLINES);

/** The finding of every facet by its number, 0 for none. */
export const useFindingFacets = (analysis: OverhangAnalysis | null | undefined) =>
  useLayerBytes(analysis?.id, analysis?.facets, FACETS);

export const useLayerLog = (analysis: OverhangAnalysis | null | undefined, copies: number) =>
  useQuery({
    queryKey: ["layer-log", analysis?.id, copies],
    queryFn: () => api.layerLog(analysis?.id ?? "", copies),
    enabled: !!analysis?.complete,
    placeholderData: (before, query) => (query?.queryKey[1] === analysis?.id ? before : undefined),
    staleTime: Infinity,
  });

/** What a remedy is called and asks of a hand, by its key. */
export function useRemedyNames() {
  const { data } = useQuery({ queryKey: ["remedy-catalogue"], queryFn: api.remedyCatalogue, staleTime: Infinity });
  return (key: string) =>
    data?.find((remedy) => remedy.key === key) ?? { key, title: key.replaceAll("_", " "), hand: "", from_core: false };
}

/** Remedies worked out for a part, and its revisions; looked at again while they are being worked out. */
export const useRemedies = (part: Pick<Part, "id" | "version" | "study">) =>
  useQuery({
    queryKey: ["remedies", part.id, part.version, part.study],
    queryFn: () => api.remedies(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (isOpen(q.state.data?.proposal?.work) ? SEE_AGAIN : false),
  });

/** The part as a proposal leaves it. */
export const useProposalView = (proposal: Pick<Proposal, "id" | "view"> | null | undefined) =>
  useQuery({
    queryKey: ["proposal-view", proposal?.view],
    queryFn: () => api.proposalView(proposal?.id ?? "", proposal?.view ?? ""),
    enabled: !!proposal?.view,
    staleTime: Infinity,
  });

/** What remedies come to in the best directions; looked at again while they are being worked out. */
export const useAfterRemedies = (part: Pick<Part, "id" | "version" | "study">) =>
  useQuery({
    queryKey: ["afterwards", part.id, part.version, part.study],
    queryFn: () => api.afterwards(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (isOpen(q.state.data?.work ?? undefined) ? SEE_AGAIN : false),
  });

/** A part worked out as several pieces; looked at again while it is being worked out or its pieces come in. */
export const usePieces = (part: Pick<Part, "id" | "version" | "study">, coming = false) =>
  useQuery({
    queryKey: ["pieces", part.id, part.version, part.study],
    queryFn: () => api.pieces(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (isOpen(q.state.data?.division?.work) ? SEE_AGAIN : coming ? 1000 : false),
  });

/** All pieces of a division put together. */
export const useDivisionView = (division: Pick<Division, "id" | "view"> | null | undefined) =>
  useQuery({
    queryKey: ["division-view", division?.view],
    queryFn: () => api.divisionView(division?.id ?? "", division?.view ?? ""),
    enabled: !!division?.view,
    staleTime: Infinity,
  });

/** How thick the walls are; looked at again while they are measured. */
export const useWalls = (part: Pick<Part, "id" | "version" | "study" | "facts">) =>
  useQuery({
    queryKey: ["walls", part.id, part.version, part.study],
    queryFn: () => api.walls(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    // How it stands may become known any moment while its directions are studied.
    refetchInterval: (q) =>
      isOpen(q.state.data?.analysis?.work) ? SEE_AGAIN : awaitsFirstLook(part, q.state.data?.analysis) ? 2000 : false,
  });

/** The part with the zones of its walls. */
export const useWallsView = (analysis: Pick<WallAnalysis, "id" | "view"> | null) =>
  useQuery({
    queryKey: ["walls-view", analysis?.view],
    queryFn: () => api.wallsView(analysis?.id ?? "", analysis?.view ?? ""),
    enabled: !!analysis?.view,
    staleTime: Infinity,
  });

/** Another part laid over this one. */
export const useBeside = (part: Pick<Part, "id" | "version">, other: string | null) =>
  useQuery({
    queryKey: ["beside", part.id, part.version, other],
    queryFn: () => api.beside(part.id, other ?? ""),
    enabled: other !== null,
    retry: false,
  });

/** What prices and costs are in. */
export const useCurrency = (): string => useSession().data?.currency ?? "";

/** What the nozzle draws of one layer. */
export const useLayerLines = (analysis: string | undefined, number: number | null) =>
  useQuery({
    queryKey: ["layer-lines", analysis, number],
    queryFn: () => api.layerLines(analysis ?? "", number ?? 0),
    enabled: analysis !== undefined && number !== null,
    placeholderData: (before, query) => (query?.queryKey[1] === analysis ? before : undefined),
    staleTime: Infinity,
  });

export const useFarm = () => useQuery({ queryKey: ["farm"], queryFn: api.farm, staleTime: 0 });

/** What waits and what is being done for the workshop; `closely` where it is shown row by row, not only counted. */
export const useQueue = (closely = false) =>
  useQuery({
    queryKey: ["queue"],
    queryFn: api.queue,
    refetchInterval: (q) => (closely && q.state.data?.length ? SEE_AGAIN : 4000),
  });

/** What whoever keeps this Hewel running should know. */
export const useSigns = () => useQuery({ queryKey: ["signs"], queryFn: api.signs, refetchInterval: 60_000 });

export const usePeople = () => useQuery({ queryKey: ["people"], queryFn: api.people });
export const useLog = (wanted: boolean) =>
  useQuery({ queryKey: ["log"], queryFn: api.log, enabled: wanted, staleTime: 0 });

/** Sends something and keeps what the server refused, so that it can be shown; anything else is a fault. */
export function useSend() {
  const [trouble, setTrouble] = useState<ApiProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const send = useCallback(async <T>(call: () => Promise<T>): Promise<T | undefined> => {
    setBusy(true);
    setTrouble(null);
    try {
      return await call();
    } catch (e) {
      if (!(e instanceof ApiProblem)) throw e;
      setTrouble(e);
      return undefined;
    } finally {
      setBusy(false);
    }
  }, []);
  return { send, busy, trouble, setTrouble };
}

/** Everything that shows a job, read anew. */
export function useRefresh() {
  const client = useQueryClient();
  return (part: Pick<Part, "id" | "sheet">) =>
    Promise.all(
      [
        ["part", part.id],
        ["parts"],
        ["bin"],
        ["history", part.sheet],
        ["study"],
        ["stages", part.id],
        ["release", part.id],
        ["stages", "all"],
        ["overhangs", part.id],
        ["strength", part.id],
        ["walls", part.id],
        ["pieces", part.id],
        ["batch", part.id],
        ["prepared"],
        ["remedies", part.id],
      ].map((queryKey) => client.invalidateQueries({ queryKey })),
    );
}

/** Writes on a job, one after the other: each is made on the edition that the one before made. */
export function useJobWriter(part: Part) {
  const refresh = useRefresh();
  const client = useQueryClient();
  const { send, trouble, setTrouble } = useSend();
  // The job beside its number: what the page shows may be an answer from before a write that has come back since.
  const base = useRef<Pick<Part, "version" | "job">>(part);
  const chain = useRef<Promise<unknown>>(Promise.resolve());
  const waiting = useRef(0);
  useEffect(() => {
    if (waiting.current === 0) base.current = part;
  }, [part]);
  useEffect(() => {
    const stay = (leaving: BeforeUnloadEvent) => {
      if (waiting.current > 0) leaving.preventDefault(); // the browser asks before it drops what is not written yet
    };
    window.addEventListener("beforeunload", stay);
    return () => window.removeEventListener("beforeunload", stay);
  }, []);
  /** `change` is given the job as it is when its turn comes. True as soon as it is written: who wrote goes on from there. */
  const write = (change: (job: Job) => Sections): Promise<boolean> => {
    waiting.current++;
    const turn = chain.current.then(async () => {
      try {
        const after = await send(() => api.writeJob(part.id, base.current.version, change(base.current.job)));
        if (!after) return false;
        base.current = after;
        await takeAnswer(client, ["part", part.id], after);
        // The page is told in a turn of its own; a draft let go before that would show what was there before the write.
        await new Promise<void>((result) => notifyManager.schedule(() => result()));
        return true;
      } finally {
        if (--waiting.current === 0) void refresh(part);
      }
    });
    chain.current = turn.catch(() => undefined); // a fault is told where it was made; the next write has its turn all the same
    return turn;
  };
  return { write, trouble, setTrouble };
}
