/** The plate, its curves, one number of copies, a prepared file, the price of one copy by itself. */
import { useQuery } from "@tanstack/react-query";

import { isOpen } from "../domain/work";
import { type BatchAnalysis, type BatchMode, type Part, api } from "./client";
import { SEE_AGAIN } from "./queries";

/** The plate and its curves; looked at again while it is being filled. */
export const useBatch = (part: Pick<Part, "id" | "version" | "study">) =>
  useQuery({
    queryKey: ["batch", part.id, part.version, part.study],
    queryFn: () => api.batch(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (isOpen(q.state.data?.analysis?.work) ? SEE_AGAIN : false),
  });

/** What one copy by itself takes and costs; asked again with every candidate that is known. */
export const useFirstPrice = (part: Pick<Part, "id" | "version">, candidates: number) =>
  useQuery({
    queryKey: ["first-price", part.id, part.version, candidates],
    queryFn: () => api.firstPrice(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
  });

/** One number of copies in one mode; read anew with every edit of the job and whenever more is known of the plate. */
export const useBatchPoint = (
  part: Pick<Part, "id" | "version">,
  batch: Pick<BatchAnalysis, "id" | "done" | "plate" | "strength"> | null,
  mode: BatchMode,
  copies: number | null,
) =>
  useQuery({
    queryKey: ["batch-point", batch?.id, part.version, batch?.plate?.complete, batch?.strength.known, mode, copies],
    queryFn: () => api.batchPoint(batch?.id ?? "", mode, copies ?? 1),
    enabled: !!batch?.done && copies !== null,
    placeholderData: (before, query) => (query?.queryKey[1] === batch?.id ? before : undefined),
  });

/** A prepared file as it was read; looked at again while it is, and read anew with every edit of the job. */
export const usePrepared = (part: Pick<Part, "version">, file: string | null) =>
  useQuery({
    queryKey: ["prepared", file, part.version],
    queryFn: () => api.prepared(file ?? ""),
    enabled: file !== null,
    placeholderData: (before, query) => (query?.queryKey[1] === file ? before : undefined),
    refetchInterval: (q) => (isOpen(q.state.data?.work) ? SEE_AGAIN : false),
  });
