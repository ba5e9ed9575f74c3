/** Trials of parts, what they say of the predictions, what was learned. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";

import { type Part, client, formOf, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type PartTrials = Schemas["PartTrials"];
export type TrialOfPart = Schemas["TrialOfPart"];
export type Trial = Schemas["TrialOut"];
export type TrialIn = Schemas["TrialIn"];
export type Trials = Schemas["TrialsOut"];
export type Correction = Schemas["TrialCorrection"];
export type How = Trial["how"];
export type LongTerm = Schemas["LongTermOut"];
export type LongTermIn = Schemas["LongTermIn"];

const of = (part: string) => ({ params: { path: { part_id: part } } });
const at = (trial: string) => ({ params: { path: { trial_id: trial } } });

export const trialsApi = {
  all: () => take<Trials>(client.GET("/api/trials")),
  sought: (text: string) => take<Trial[]>(client.GET("/api/trials/sought", { params: { query: { text } } })),
  ofPart: (part: string) => take<PartTrials>(client.GET("/api/trials/of/{part_id}", of(part))),
  write: (part: string, body: TrialIn) =>
    take<PartTrials>(client.POST("/api/trials/of/{part_id}", { ...of(part), body })),
  amend: (trial: string, body: TrialIn) =>
    take<PartTrials>(client.PUT("/api/trials/{trial_id}", { ...at(trial), body })),
  strike: (trial: string, reason: string) =>
    take<PartTrials>(client.POST("/api/trials/{trial_id}/strike", { ...at(trial), body: { reason } })),
  photo: (trial: string, photo: File) =>
    take<PartTrials>(
      client.POST("/api/trials/{trial_id}/photo", {
        ...at(trial),
        body: { photo: "" },
        bodySerializer: () => formOf({ photo }),
      }),
    ),
  photoAddress: (trial: string) => `/api/trials/${trial}/photo`,
  longTerm: () => take<LongTerm[]>(client.GET("/api/trials/longterm")),
  beginLongTerm: (body: LongTermIn) => take<LongTerm[]>(client.POST("/api/trials/longterm", { body })),
  amendLongTerm: (id: string, base: number, specimen: LongTermIn) =>
    take<LongTerm[]>(
      client.PUT("/api/trials/longterm/{specimen_id}", {
        params: { path: { specimen_id: id } },
        body: { base, specimen },
      }),
    ),
  takeCreep: (id: string) =>
    take<LongTerm[]>(client.POST("/api/trials/longterm/{specimen_id}/take", { params: { path: { specimen_id: id } } })),
  effect: ({ group, where }: Correction) =>
    take<Schemas["EffectOut"][]>(client.POST("/api/trials/effect", { body: { group, where } })),
  takeCorrection: ({ group, where }: Correction, reason: string) =>
    take<Trials>(client.POST("/api/trials/correction", { body: { group, where, reason } })),
};

export const useLongTerm = () => useQuery({ queryKey: ["trials", "longterm"], queryFn: trialsApi.longTerm });

export const useTrials = () => useQuery({ queryKey: ["trials"], queryFn: trialsApi.all });

export const useSought = (text: string) =>
  useQuery({
    queryKey: ["trials", "sought", text],
    queryFn: () => trialsApi.sought(text),
    enabled: text.trim().length > 1,
    placeholderData: (before) => before,
  });

export const usePartTrials = (part: Pick<Part, "id" | "version" | "study">) =>
  useQuery({
    queryKey: ["trials", "of", part.id, part.version, part.study],
    queryFn: () => trialsApi.ofPart(part.id),
    placeholderData: (before, query) => (query?.queryKey[2] === part.id ? before : undefined),
  });

/** What differs between two trials, in words. */
export const useBeside = (trial: string, other: string | null) =>
  useQuery({
    queryKey: ["trials", "beside", trial, other],
    queryFn: () =>
      take<string[]>(
        client.GET("/api/trials/{trial_id}/beside/{other_id}", {
          params: { path: { trial_id: trial, other_id: other ?? "" } },
        }),
      ),
    enabled: other !== null,
  });

export const useEffectOf = (correction: Correction | null) =>
  useQuery({
    queryKey: ["trials", "effect", correction?.group, correction?.where, correction?.told?.offered],
    queryFn: () => (correction ? trialsApi.effect(correction) : Promise.resolve([])),
    enabled: correction !== null,
  });

/** What shows trials and the stages that stand on them, read anew. */
export function useTrialsRefresh() {
  const queries = useQueryClient();
  return useCallback(
    () => Promise.all([["trials"], ["stages"], ["farm"]].map((queryKey) => queries.invalidateQueries({ queryKey }))),
    [queries],
  );
}
