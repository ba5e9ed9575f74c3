/** What the page knows of the server, kept fresh while something is being computed. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { ApiProblem, api, type SweepOut, type Work } from "./client";

export const isOpen = (work: Work | undefined): boolean => work?.state === "waiting" || work?.state === "running";

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: api.session, retry: (n, e) => !(e instanceof ApiProblem) && n < 2, staleTime: 60_000 });

export const useParts = () => useQuery({ queryKey: ["parts"], queryFn: api.parts, refetchInterval: 5000 });

export const usePart = (id: string) => useQuery({ queryKey: ["part", id], queryFn: () => api.part(id), retry: 1 });

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
    refetchInterval: (q) => (isOpen(q.state.data?.work) ? 600 : false),
  });

/** All swept directions, their vectors packed for quick searching. */
export interface Sweep {
  ups: Float32Array;
  fields: SweepOut["fields"];
}

export const useSweep = (study: string | undefined, ready: boolean) =>
  useQuery({
    queryKey: ["sweep", study],
    queryFn: async (): Promise<Sweep> => {
      const { ups, fields } = await api.sweep(study ?? "");
      return { ups: Float32Array.from(ups.flat()), fields };
    },
    enabled: study !== undefined && ready,
    staleTime: Infinity,
  });

/** Follows one piece of work to its end; `onDone` is called once. */
export function useWork(id: string | undefined, onDone: (work: Work) => void) {
  const query = useQuery({
    queryKey: ["work", id],
    queryFn: () => api.work(id ?? ""),
    enabled: id !== undefined,
    refetchInterval: (q) => (q.state.data === undefined || isOpen(q.state.data) ? 400 : false),
  });
  const client = useQueryClient();
  const work = query.data;
  useEffect(() => {
    if (work && work.id === id && !isOpen(work)) onDone(work);
    // The end of a piece of work happens once; `onDone` is made anew with every drawing of the page.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [work?.state, id]);
  return { work, refresh: () => client.invalidateQueries({ queryKey: ["work", id] }) };
}
