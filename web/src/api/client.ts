/** The generated types put to work: one function a call, every refusal an `ApiProblem`. */
import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Part = components["schemas"]["PartOut"];
export type PartRow = components["schemas"]["PartRow"];
export type Study = components["schemas"]["StudyOut"];
export type Candidate = components["schemas"]["Candidate"];
export type Choice = components["schemas"]["ChoiceOut"];
export type Work = components["schemas"]["WorkOut"];
export type Session = components["schemas"]["Session"];
export type Process = components["schemas"]["ProcessIn"];
export type Clash = components["schemas"]["ClashOut"];
export type Desk = components["schemas"]["Desk"];
export type Weights = components["schemas"]["Weights"];
export type Ranking = components["schemas"]["RankingOut"];
export type History = components["schemas"]["HistoryOut"];
export type StruckRow = components["schemas"]["StruckRow"];
export type Role = components["schemas"]["Session"]["role"];
export type SweepOut = components["schemas"]["SweepOut"];

export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly hint: string,
    readonly clashes: readonly Clash[] = [],
  ) {
    super(message);
  }
}

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((c) => c.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
}

const client = createClient<paths>({ baseUrl: "/" });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
});

function problem(status: number, body: unknown): ApiProblem {
  const b = (body ?? {}) as { code?: string; message?: string; hint?: string; clashes?: Clash[] };
  if (b.message) return new ApiProblem(status, b.code ?? "", b.message, b.hint ?? "", b.clashes);
  if (status === 401) return new ApiProblem(401, "signed_out", "You are signed out.", "Sign in again.");
  return new ApiProblem(status, "", `The server answered ${status}.`, "Try again in a moment.");
}

async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw new ApiProblem(0, "offline", "The server does not answer.", "Check that Hewel is running; nothing was lost.");
  }
  if (!answer.response.ok) throw problem(answer.response.status, answer.error);
  return answer.data as T;
}

export const api = {
  session: () => take<Session | null>(client.GET("/api/session")),
  signIn: (username: string, password: string) =>
    take<Session>(client.POST("/api/session", { body: { username, password } })),
  signOut: () => take<undefined>(client.DELETE("/api/session")),

  parts: () => take<PartRow[]>(client.GET("/api/parts")),
  part: (id: string) => take<Part>(client.GET("/api/parts/{part_id}", { params: { path: { part_id: id } } })),
  importPart: (file: File, name: string, units: string) =>
    take<Work>(
      client.POST("/api/parts", {
        body: { file: file as unknown as string, name, units },
        bodySerializer: () => {
          const form = new FormData();
          form.set("file", file);
          form.set("name", name);
          form.set("units", units);
          return form;
        },
      }),
    ),
  shape: async (part: string, digest: string): Promise<ArrayBuffer> => {
    const answer = await fetch(`/api/parts/${part}/shape/${digest}`);
    if (!answer.ok) throw problem(answer.status, null);
    return answer.arrayBuffer();
  },
  fileAddress: (part: string, kind: "stl" | "3mf") => `/api/parts/${part}/file?kind=${kind}`,

  study: (id: string) => take<Study>(client.GET("/api/studies/{study_id}", { params: { path: { study_id: id } } })),
  sweep: (id: string, digest: string) =>
    take<SweepOut>(client.GET("/api/studies/{study_id}/sweep", { params: { path: { study_id: id }, query: { digest } } })),
  orderStudy: (part: string, base: number, process: Process) =>
    take<Study>(client.POST("/api/studies/of/{part_id}", { params: { path: { part_id: part } }, body: { base, ...process } })),
  ranking: (id: string, weights: Weights) =>
    take<Ranking>(client.GET("/api/studies/{study_id}/ranking", { params: { path: { study_id: id }, query: weights } })),
  comparisonAddress: (study: string) => `/api/studies/${study}/comparison`,
  askDirection: (id: string, up: readonly number[]) =>
    take<Work>(
      client.POST("/api/studies/{study_id}/directions", {
        params: { path: { study_id: id } },
        body: { up: [...up] },
      }),
    ),
  choose: (id: string, base: number, up: readonly number[], reason: string) =>
    take<Choice>(
      client.POST("/api/studies/{study_id}/choice", {
        params: { path: { study_id: id } },
        body: { base, up: [...up], reason },
      }),
    ),

  writeSection: (part: string, section: "title" | "desk", base: number, value: Record<string, unknown>) =>
    take<Part>(client.PUT("/api/parts/{part_id}/job/{section}", { params: { path: { part_id: part, section } }, body: { base, value } })),
  bin: () => take<StruckRow[]>(client.GET("/api/parts/bin")),
  history: (sheet: string) => take<History>(client.GET("/api/sheets/{sheet_id}/history", { params: { path: { sheet_id: sheet } } })),
  takeBack: (sheet: string, number: number) =>
    take<History>(client.POST("/api/sheets/{sheet_id}/take-back", { params: { path: { sheet_id: sheet } }, body: { number } })),
  strike: (sheet: string) => take<History>(client.DELETE("/api/sheets/{sheet_id}", { params: { path: { sheet_id: sheet } } })),
  bringBack: (sheet: string) => take<History>(client.POST("/api/sheets/{sheet_id}/bring-back", { params: { path: { sheet_id: sheet } } })),

  people: () => take<components["schemas"]["PeopleOut"]>(client.GET("/api/people")),
  log: () => take<components["schemas"]["LogRow"][]>(client.GET("/api/people/log")),
  invite: (whom: string, role: Role) => take<components["schemas"]["Invited"]>(client.POST("/api/people/invitations", { body: { whom, role } })),
  revoke: (id: number) => take<undefined>(client.DELETE("/api/people/invitations/{invitation_id}", { params: { path: { invitation_id: id } } })),
  changePerson: (id: number, role: Role, active: boolean) =>
    take<undefined>(client.PUT("/api/people/{person_id}", { params: { path: { person_id: id } }, body: { role, active } })),
  invitation: (token: string) => take<components["schemas"]["Welcome"]>(client.GET("/api/session/join/{token}", { params: { path: { token } } })),
  join: (token: string, username: string, name: string, password: string) =>
    take<Session>(client.POST("/api/session/join/{token}", { params: { path: { token } }, body: { username, name, password } })),

  work: (id: string) => take<Work>(client.GET("/api/work/{work_id}", { params: { path: { work_id: id } } })),
  cancel: (id: string) =>
    take<Work>(client.POST("/api/work/{work_id}/cancel", { params: { path: { work_id: id } } })),
};
