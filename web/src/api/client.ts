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
export type SweepOut = components["schemas"]["SweepOut"];

export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly hint: string,
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
  const b = (body ?? {}) as { code?: string; message?: string; hint?: string };
  if (b.message) return new ApiProblem(status, b.code ?? "", b.message, b.hint ?? "");
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
  sweep: (id: string) =>
    take<SweepOut>(client.GET("/api/studies/{study_id}/sweep", { params: { path: { study_id: id } } })),
  orderStudy: (part: string, process: Process) =>
    take<Study>(client.POST("/api/studies/of/{part_id}", { params: { path: { part_id: part } }, body: process })),
  askDirection: (id: string, up: readonly number[]) =>
    take<Work>(
      client.POST("/api/studies/{study_id}/directions", {
        params: { path: { study_id: id } },
        body: { up: [...up] },
      }),
    ),
  choose: (id: string, up: readonly number[], reason: string) =>
    take<Choice>(
      client.POST("/api/studies/{study_id}/choice", {
        params: { path: { study_id: id } },
        body: { up: [...up], reason },
      }),
    ),

  work: (id: string) => take<Work>(client.GET("/api/work/{work_id}", { params: { path: { work_id: id } } })),
  cancel: (id: string) =>
    take<Work>(client.POST("/api/work/{work_id}/cancel", { params: { path: { work_id: id } } })),
};
