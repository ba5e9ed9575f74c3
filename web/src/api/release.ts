/** Releases: what is missing, releasing, reviewing, the packet, the report. */
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { type Part, client, take } from "./client";
import type { components } from "./schema";

export type ReleaseState = components["schemas"]["ReleaseStateOut"];
export type Release = components["schemas"]["ReleaseOut"];
export type Kind = Release["kind"];

const path = (part: string) => ({ params: { path: { part_id: part } } });
const of = (release: string) => ({ params: { path: { release_id: release } } });

export const releases = {
  state: (part: string) => take<ReleaseState>(client.GET("/api/release/of/{part_id}", path(part))),
  release: (part: string, base: number, kind: Kind, waiver: string, note: string) =>
    take<Release>(client.POST("/api/release/of/{part_id}", { ...path(part), body: { base, kind, waiver, note } })),
  generic: (part: string) => take<ReleaseState>(client.POST("/api/release/of/{part_id}/generic", path(part))),
  review: (release: string, approved: boolean, words: string) =>
    take<Release>(client.POST("/api/release/{release_id}/review", { ...of(release), body: { approved, words } })),
  takeBack: (release: string) => take(client.POST("/api/release/{release_id}/take-back", of(release))),
  differences: (one: string, other: string) =>
    take<components["schemas"]["ReleaseDifference"][]>(
      client.GET("/api/release/{release_id}/against/{other_release}", {
        params: { path: { release_id: one, other_release: other } },
      }),
    ),
  packetAddress: (release: string) => `/api/release/${release}/packet`,
  reportAddress: (part: string) => `/api/release/of/${part}/report`,
};

const SEE_AGAIN = 800; // ms

export const useRelease = (part: Pick<Part, "id" | "version">) =>
  useQuery({
    queryKey: ["release", part.id, part.version],
    queryFn: () => releases.state(part.id),
    placeholderData: (before, query) => (query?.queryKey[1] === part.id ? before : undefined),
    refetchInterval: (q) => (q.state.data?.generic.busy ? SEE_AGAIN : false),
    staleTime: 0,
  });

export const useDifferences = (one: string | null, other: string | null) =>
  useQuery({
    queryKey: ["release-differences", one, other],
    queryFn: () => releases.differences(one ?? "", other ?? ""),
    enabled: one !== null && other !== null,
  });

/** Everything that a release changes is read anew. */
export function useAfterRelease() {
  const queries = useQueryClient();
  return (part: string) =>
    Promise.all(
      [["release"], ["part", part], ["parts"], ["stages"]].map((queryKey) => queries.invalidateQueries({ queryKey })),
    );
}
