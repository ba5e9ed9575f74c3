/** Touching faces: what comes out of what is drawn, and the part drawn for its fits. */
import { useQuery } from "@tanstack/react-query";

import { isOpen } from "../domain/work";
import { type Part, api, client, drawing, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type FitState = Schemas["FitStateOut"];
export type FitRow = Schemas["FitRowOut"];
export type FitEstimate = Schemas["FitEstimate"];
export type OtherFace = Schemas["OtherFace"];
export type FlexRow = Schemas["FlexRowOut"];
export type FeatureRow = Schemas["FeatureRowOut"];
export type FeatureKind = Schemas["FeatureKind"];
export type Mate = Part["job"]["mates"]["rows"][number];
export type MateOut = Schemas["MateOut"];
export type BoughtKind = Schemas["BoughtKind"];
export type FitAnalysis = Schemas["FitResult"];
export type Touch = Part["job"]["touching"]["rows"][number];
export type Features = Part["job"]["features"]["rows"];
export type Feature = Features[number];
export type Flexes = Part["job"]["flexing"]["rows"];

const of = (part: string) => ({ params: { path: { part_id: part } } });

export const fitApi = {
  read: (part: string) => take<FitState>(client.GET("/api/fit/of/{part_id}", of(part))),
  draw: (part: string, rows: string[] | null) =>
    take<FitState>(client.POST("/api/fit/of/{part_id}", { ...of(part), body: { rows } })),
  take: (result: string) =>
    take<Schemas["WorkOut"]>(client.POST("/api/fit/{result_id}/take", { params: { path: { result_id: result } } })),
};

/** Milliseconds between two looks while it is being drawn. */
const SEE_AGAIN = 800;

type Asked = Pick<Part, "id" | "version" | "study">;

/** Least reserve of what bends, over the directions of the sweep; null while there is none. */
export const useArmsNet = (part: Asked & Pick<Part, "job">) =>
  useQuery({
    queryKey: ["arms-net", part.id, part.version, part.study],
    queryFn: () => take<Schemas["ArmsNet"]>(client.GET("/api/fit/of/{part_id}/arms", of(part.id))),
    enabled: part.job.flexing.rows.length > 0,
    select: (net) => (net.least.length > 0 ? net.least : null),
  });

export const useFit = (part: Asked, coming: boolean) =>
  useQuery({
    queryKey: ["fit", part.id, part.version, part.study],
    queryFn: () => fitApi.read(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (coming || isOpen(q.state.data?.analysis?.work) ? SEE_AGAIN : false),
  });

/** What a feature with the numbers that are told of it would add to the part, and take away; or why it cannot be. */
export const useTried = (part: Asked, feature: Feature | undefined, row: FeatureRow | undefined) =>
  useQuery({
    queryKey: ["feature", part.id, part.study, feature?.kind, feature?.at, feature?.end, row?.numbers],
    queryFn: ({ signal }) =>
      feature
        ? api.lookAtRemedy(
            part.id,
            {
              key: feature.kind,
              kind: "feature",
              centre_mm: feature.at,
              axis: feature.normal,
              end_mm: feature.end ?? null,
              set: row?.numbers ?? {},
              on: true,
              may_fill: true,
            },
            signal,
          )
        : Promise.reject(new Error("no feature")),
    enabled: !!feature && !feature.made && !!row && !row.why,
    staleTime: Infinity,
  });

/** The part as it is drawn for its fits. */
export const useFitView = (analysis: FitAnalysis | null) =>
  useQuery({
    queryKey: ["fit-view", analysis?.view],
    queryFn: () => drawing(`/api/fit/${analysis?.id ?? ""}/content/view/${analysis?.view ?? ""}`),
    enabled: !!analysis?.view,
    staleTime: Infinity,
  });
