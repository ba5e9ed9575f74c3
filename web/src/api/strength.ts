/** The strength check, its reserves in every direction, and what is told of one direction. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { isLoaded } from "../domain/needs";
import { decodeFields } from "../domain/strength";
import { isOpen } from "../domain/work";
import { type Check, type Part, api } from "./client";
import { SEE_AGAIN } from "./queries";

/** The check that answers for the job; looked at again while it, or one of its directions, is being calculated. From the
 * moment loads and what holds are written, a first answer is on its way, a moment after the part has come in. */
export const useStrength = (part: Part) =>
  useQuery({
    queryKey: ["strength", part.id, part.version, part.study],
    queryFn: () => api.strength(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => {
      const check = q.state.data?.check;
      const onItsWay = q.state.data && !check && isLoaded(part) && part.facts.watertight;
      return onItsWay || isOpen(check?.work) || check?.directions.some((s) => isOpen(s.work ?? undefined))
        ? SEE_AGAIN
        : false;
    },
  });

/** The strength check that answers for the job as it is; another answer of it is another reserve of every candidate. */
export function useHoldingCheck(part: Part): Check | null {
  const client = useQueryClient();
  const check = useStrength(part).data?.check;
  const holds = check && check.stale_because.length === 0 ? check : null;
  const net = holds?.net;
  useEffect(() => {
    if (net)
      void client.invalidateQueries({
        predicate: ({ queryKey }) => queryKey[0] === "study" || queryKey[0] === "ranking",
      });
  }, [net, client]);
  return holds;
}

/** Reserves of every swept direction; `net` changes whenever they do. */
export const useReserveNet = (check: Check | null | undefined) =>
  useQuery({
    queryKey: ["reserve-net", check?.id, check?.net],
    queryFn: () => api.reserveNet(check?.id ?? ""),
    enabled: !!check?.net,
    placeholderData: (before, query) => (query?.queryKey[1] === check?.id ? before : undefined),
    staleTime: Infinity,
  });

/** One direction in full; anew with every edition of the job and whenever the check tells more of it. */
export const useDirectionAnalysis = (id: string | undefined, version: number, result: string) =>
  useQuery({
    queryKey: ["stand", id, version, result],
    queryFn: () => api.analysis(id ?? ""),
    enabled: !!id,
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
    refetchInterval: (q) =>
      isOpen(q.state.data?.exploring ?? undefined) || isOpen(q.state.data?.fielding ?? undefined) ? SEE_AGAIN : false,
  });

export const useDirectionLog = (id: string | undefined, version: number, result: string, wanted: boolean) =>
  useQuery({
    queryKey: ["stand-log", id, version, result],
    queryFn: () => api.directionLog(id ?? ""),
    enabled: !!id && wanted,
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
    staleTime: Infinity,
  });

export const useVolume = (analysis: string | undefined, digest: string | null | undefined) =>
  useQuery({
    queryKey: ["volume", digest],
    queryFn: async () => decodeFields(await api.volume(analysis ?? "", digest ?? "")),
    enabled: !!analysis && !!digest,
    staleTime: Infinity,
  });
