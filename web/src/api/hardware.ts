/** Steel in a part: what was worked out of it, what else would do, what is to be bought. */
import { useQuery } from "@tanstack/react-query";

import { isOpen } from "../domain/work";
import { type Part, client, drawing, take } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type HardwareState = Schemas["HardwareStateOut"];
export type HardwareAnalysis = Schemas["HardwareResult"];
export type HardwareRow = Part["job"]["hardware"]["rows"][number];
export type Hardware = Part["job"]["hardware"];
export type BoltFits = Schemas["BoltFits"];
export type BoltsThatHold = Schemas["BoltsThatHold"];
export type Way = Schemas["HoldingWay"];

const of = (part: string) => ({ params: { path: { part_id: part } } });

export const hardwareApi = {
  read: (part: string) => take<HardwareState>(client.GET("/api/hardware/of/{part_id}", of(part))),
  calculate: (part: string) => take<HardwareState>(client.POST("/api/hardware/of/{part_id}", of(part))),
  fits: (part: string) => take<Schemas["BoltFits"] | null>(client.GET("/api/hardware/of/{part_id}/fits", of(part))),
  ways: (part: string) => take<Way[]>(client.GET("/api/hardware/of/{part_id}/ways", of(part))),
  take: (result: string) =>
    take<Schemas["WorkOut"]>(
      client.POST("/api/hardware/{result_id}/take", { params: { path: { result_id: result } } }),
    ),
};

/** Milliseconds between two looks while it is being worked out. */
const SEE_AGAIN = 800;

type Asked = Pick<Part, "id" | "version" | "study">;

export const useHardware = (part: Asked, coming: boolean) =>
  useQuery({
    queryKey: ["hardware", part.id, part.version, part.study],
    queryFn: () => hardwareApi.read(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (coming || isOpen(q.state.data?.analysis?.work) ? SEE_AGAIN : false),
  });

/** A drawing of a result: the part with its places cut, or the steel that goes in. */
export const useHardwareView = (analysis: HardwareAnalysis | null, what: "view" | "steel") => {
  const digest = analysis?.[what];
  return useQuery({
    queryKey: ["hardware-view", what, digest],
    queryFn: () => drawing(`/api/hardware/${analysis?.id ?? ""}/content/${what}/${digest ?? ""}`),
    enabled: !!digest,
    staleTime: Infinity,
  });
};

export const useFits = (part: Asked, result: string, wanted: boolean) =>
  useQuery({
    queryKey: ["hardware-fits", part.id, part.version, result],
    queryFn: () => hardwareApi.fits(part.id),
    enabled: wanted,
    retry: false,
  });

export const useWays = (part: Asked, wanted: boolean) =>
  useQuery({
    queryKey: ["hardware-ways", part.id, part.version],
    queryFn: () => hardwareApi.ways(part.id),
    enabled: wanted,
  });
