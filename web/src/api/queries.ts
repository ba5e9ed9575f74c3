/** What the page knows of the server, kept fresh while something is being computed. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { ApiProblem, type Part, type SweepOut, type Weights, type Work, api } from "./client";

export const isOpen = (work: Work | undefined): boolean => work?.state === "waiting" || work?.state === "running";

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: api.session, retry: (n, e) => !(e instanceof ApiProblem) && n < 2, staleTime: 60_000 });

export const useParts = () => useQuery({ queryKey: ["parts"], queryFn: api.parts, refetchInterval: 5000 });

/** A part; looked at again while its bores are being found. */
export const usePart = (id: string) =>
  useQuery({
    queryKey: ["part", id],
    queryFn: () => api.part(id),
    retry: 1,
    refetchInterval: (q) => (q.state.data?.facts.bores === null ? 700 : false),
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
    refetchInterval: (q) => (isOpen(q.state.data?.work) ? (q.state.data?.swept ? 500 : 150) : false),
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
    refetchInterval: (q) => (q.state.data === undefined || isOpen(q.state.data) ? 150 : false),
  });
  const client = useQueryClient();
  const work = query.data;
  const told = work !== undefined && work.id === id && (!isOpen(work) || work.result !== null);
  useEffect(() => {
    if (told) onTold(work);
    // What is told is told once; `onTold` is made anew with every drawing of the page.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [told, id]);
  return { work, refresh: () => client.invalidateQueries({ queryKey: ["work", id] }) };
}

export const useBin = () => useQuery({ queryKey: ["bin"], queryFn: api.bin });

export const useHistory = (sheet: string, wanted = true) =>
  useQuery({ queryKey: ["history", sheet], queryFn: () => api.history(sheet), enabled: wanted, staleTime: 0 });

export const useRanking = (study: string, weights: Weights | null, candidates: number, swept: string | null | undefined) =>
  useQuery({
    queryKey: ["ranking", study, weights, candidates, swept],
    queryFn: () => api.ranking(study, weights ?? ({} as Weights)),
    enabled: weights !== null && candidates > 0,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });

export const usePeople = () => useQuery({ queryKey: ["people"], queryFn: api.people });
export const useLog = (wanted: boolean) => useQuery({ queryKey: ["log"], queryFn: api.log, enabled: wanted, staleTime: 0 });

/** Sends something and keeps what the server refused, so that it can be shown; anything else is a fault. */
export function useSend() {
  const [trouble, setTrouble] = useState<ApiProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const send = async <T>(call: () => Promise<T>): Promise<T | undefined> => {
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
  };
  return { send, busy, trouble, setTrouble };
}

/** Everything that shows a job, read anew. */
export function useRefresh() {
  const client = useQueryClient();
  return (part: Pick<Part, "id" | "sheet">) =>
    Promise.all(
      [["part", part.id], ["parts"], ["bin"], ["history", part.sheet]].map((queryKey) => client.invalidateQueries({ queryKey })),
    );
}
