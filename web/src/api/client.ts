/** The generated types put to work: one function a call, every refusal an `ApiProblem`. */
import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type UnitWord = components["schemas"]["UnitIn"]["units"];
export type Part = components["schemas"]["PartOut"];
export type PartRow = components["schemas"]["PartRow"];
export type Study = components["schemas"]["StudyOut"];
export type Candidate = components["schemas"]["Candidate"];
export type Choice = components["schemas"]["ChoiceOut"];
export type QueueRow = components["schemas"]["QueueRow"];
export type Work = components["schemas"]["WorkOut"];
export type Session = components["schemas"]["Session"];
export type ProcessGiven = components["schemas"]["ProcessIn"];
export type ProcessNow = components["schemas"]["ProcessOut"];
export type Numbers = components["schemas"]["Numbers"];
export type Duties = components["schemas"]["DutyFields"];
export type Space = components["schemas"]["SpaceOut"];
export type Job = components["schemas"]["JobOut"];
export type Needs = components["schemas"]["NeedsOut"];
export type Beside = components["schemas"]["LaidOverOut"];
export type Pointed = components["schemas"]["PointOut"];
export type Balance = components["schemas"]["BalanceOut"];
export type Loads = components["schemas"]["Loads"];
export type CaseRow = components["schemas"]["CaseRow"];
export type LoadRow = components["schemas"]["LoadRow"];
export type HoldRow = components["schemas"]["HoldRow"];
export type Requirement = components["schemas"]["Requirement"];
export type RegionRow = components["schemas"]["RegionRow"];
export type TouchRow = components["schemas"]["TouchRow"];
export type MovementRow = components["schemas"]["MovementRow"];
export type Farm = components["schemas"]["FarmOut"];
export type FarmRecord = components["schemas"]["RecordOut"];
export type FarmField = components["schemas"]["FieldOut"];
export type RecordIn = components["schemas"]["RecordIn"];
export type Kind = FarmRecord["kind"];
/** Sections of a job as they are sent; numbers with units go as they were typed. */
export type Sections = Record<string, Record<string, unknown>>;
export type Overhangs = components["schemas"]["OverhangsOut"];
export type OverhangAnalysis = components["schemas"]["OverhangAnalysisOut"];
export type Finding = components["schemas"]["FindingOut"];
export type Gone = components["schemas"]["GoneRow"];
export type Remedies = components["schemas"]["RemediesOut"];
export type Proposal = components["schemas"]["ProposalOut"];
export type Remedy = components["schemas"]["AppliedOut"];
export type AfterRow = components["schemas"]["AfterRow"];
export type RemedyLook = components["schemas"]["LookOut"];
export type Parameter = components["schemas"]["ParameterOut"];
export type RecipeStep = components["schemas"]["Step"];
export type Revision = components["schemas"]["RevisionOut"];
export type Pieces = components["schemas"]["PiecesOut"];
export type Division = components["schemas"]["DivisionOut"];
export type Walls = components["schemas"]["WallsOut"];
export type Batch = components["schemas"]["BatchOut"];
export type BatchAnalysis = components["schemas"]["BatchAnalysisOut"];
export type BatchMode = components["schemas"]["ChosenOut"]["mode"];
export type BatchPoint = components["schemas"]["BatchPoint"];
export type BatchCurve = components["schemas"]["CurveOut"];
export type BatchBed = components["schemas"]["BedOut"];
export type Prepared = components["schemas"]["PreparedOut"];
export type Misplaced = components["schemas"]["WrongOut"];
export type PlateSettings = components["schemas"]["Plate"];
export type SizingPlace = components["schemas"]["PlaceOut"];
export type LayerLines = components["schemas"]["LinesOut"];
export type DrawnLayers = components["schemas"]["DrawnLayersOut"];
export type SizeRequest = components["schemas"]["SizeIn"];
export type SizeResult = components["schemas"]["SizeOut"];
export type WallAnalysis = components["schemas"]["WallAnalysisOut"];
export type WallZone = components["schemas"]["ZoneOut"];
export type DivideRequest = components["schemas"]["DivideIn"];
export type MadePiece = components["schemas"]["MadeOut"];
export type LayerLog = components["schemas"]["LogOut"];
export type Strength = components["schemas"]["StrengthOut"];
export type Check = components["schemas"]["StrengthAnalysisOut"];
export type DirectionAnalysis = components["schemas"]["DirectionAnalysisOut"];
export type Solution = components["schemas"]["SolutionOut"];
export type CaseResult = components["schemas"]["CaseOut"];
export type DirectionLog = components["schemas"]["DirectionLog"];
export type Fix = components["schemas"]["FixOut"];
export type Pair = components["schemas"]["PairOut"];
export type Stock = components["schemas"]["StockOut"];
export type Service = components["schemas"]["ServiceOut"];
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

export const client = createClient<paths>({ baseUrl: "/" });
const listeners = new Set<() => void>();

/** Calls `listener` after every write and every order that the server took; gives back how to end that. */
export function onWritten(listener: () => void): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
  onResponse({ request, response }) {
    if (request.method !== "GET" && response.ok) listeners.forEach((listener) => listener());
  },
});

function problem(status: number, body: unknown): ApiProblem {
  const b = (body ?? {}) as { code?: string; message?: string; hint?: string; clashes?: Clash[] };
  if (b.message) return new ApiProblem(status, b.code ?? "", b.message, b.hint ?? "", b.clashes);
  if (status === 401) return new ApiProblem(401, "signed_out", "You are signed out.", "Sign in again.");
  return new ApiProblem(status, "", `The server answered ${status}.`, "Try again in a moment.");
}

export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw new ApiProblem(0, "offline", "The server does not answer.", "Check that Hewel is running; nothing was lost.");
  }
  if (!answer.response.ok) throw problem(answer.response.status, answer.error);
  return answer.data as T;
}

/** What goes along with a file; what is null stays away. */
export function formOf(fields: Record<string, string | number | boolean | File | null>): FormData {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields))
    if (value !== null) form.set(name, value instanceof File ? value : String(value));
  return form;
}

export async function drawing(address: string): Promise<ArrayBuffer> {
  const answer = await fetch(address);
  if (!answer.ok) throw problem(answer.status, null);
  return answer.arrayBuffer();
}

export const api = {
  session: () => take<Session | null>(client.GET("/api/session")),
  signIn: (username: string, password: string) =>
    take<Session>(client.POST("/api/session", { body: { username, password } })),
  signOut: () => take<undefined>(client.DELETE("/api/session")),

  parts: () => take<PartRow[]>(client.GET("/api/parts")),
  part: (id: string) => take<Part>(client.GET("/api/parts/{part_id}", { params: { path: { part_id: id } } })),
  stages: (part: string) =>
    take<components["schemas"]["StageOut"][]>(
      client.GET("/api/stages/{part_id}", { params: { path: { part_id: part } } }),
    ),
  standings: (parts: readonly string[]) =>
    take<components["schemas"]["StandingOut"][]>(
      client.GET("/api/stages", { params: { query: { parts: parts.join(",") } } }),
    ),
  together: (parts: readonly string[], action: "bin" | "label" | "unlabel" | "check", label = "") =>
    take<components["schemas"]["Outcome"][]>(
      client.POST("/api/parts/together", { body: { parts: [...parts], action, label } }),
    ),
  copyJob: (part: string, of: string, base: number) =>
    take<Part>(client.POST("/api/parts/{part_id}/job-of", { params: { path: { part_id: part } }, body: { of, base } })),
  beginBeside: (part: string) =>
    take<PartRow>(client.POST("/api/parts/{part_id}/beside", { params: { path: { part_id: part } } })),
  pictureAddress: (part: string, name: string) => `/api/parts/${part}/picture/${name}`,
  partsTableAddress: (parts: readonly string[]) => `/api/parts/table${parts.length ? `?ids=${parts.join(",")}` : ""}`,
  signs: () => take<string[]>(client.GET("/api/signs")),
  importPart: (file: File, name: string, units: string, revises: string) =>
    take<Work>(
      client.POST("/api/parts", {
        body: { file: file as unknown as string, name, units, revises: revises || null },
        bodySerializer: () => formOf({ file, name, units, revises: revises || null }),
      }),
    ),
  shape: async (part: string, digest: string): Promise<ArrayBuffer> => {
    const answer = await fetch(`/api/parts/${part}/shape/${digest}`);
    if (!answer.ok) throw problem(answer.status, null);
    return answer.arrayBuffer();
  },
  fileAddress: (part: string, kind: "stl" | "3mf" | "step") => `/api/parts/${part}/file?kind=${kind}`,

  study: (id: string) => take<Study>(client.GET("/api/studies/{study_id}", { params: { path: { study_id: id } } })),
  sweep: (id: string, digest: string) =>
    take<SweepOut>(
      client.GET("/api/studies/{study_id}/sweep", { params: { path: { study_id: id }, query: { digest } } }),
    ),
  duties: (id: string) =>
    take<Duties>(client.GET("/api/studies/{study_id}/duties", { params: { path: { study_id: id } } })),
  calculateStudy: (part: string, base: number, process: ProcessGiven) =>
    take<Study>(
      client.POST("/api/studies/of/{part_id}", { params: { path: { part_id: part } }, body: { base, ...process } }),
    ),
  ranking: (id: string, weights: Weights) =>
    take<Ranking>(
      client.GET("/api/studies/{study_id}/ranking", { params: { path: { study_id: id }, query: weights } }),
    ),
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

  writeJob: (part: string, base: number, sections: Sections) =>
    take<Part>(
      client.PUT("/api/parts/{part_id}/job", { params: { path: { part_id: part } }, body: { base, sections } }),
    ),

  spaces: (part: string) =>
    take<Space[]>(client.GET("/api/needs/{part_id}/spaces", { params: { path: { part_id: part } } })),
  needs: (part: string) => take<Needs>(client.GET("/api/needs/{part_id}", { params: { path: { part_id: part } } })),
  beside: (part: string, other: string) =>
    take<Beside>(
      client.GET("/api/beside/{part_id}/{other_id}", { params: { path: { part_id: part, other_id: other } } }),
    ),
  firstPrice: (part: string) =>
    take<components["schemas"]["FirstPrice"] | null>(
      client.GET("/api/batch/first/{part_id}", { params: { path: { part_id: part } } }),
    ),
  changeWorkshop: (currency: string) => take(client.PUT("/api/people/workshop", { body: { currency } })),
  point: (part: string, facet: number, wide: boolean) =>
    take<Pointed>(
      client.POST("/api/needs/{part_id}/point", { params: { path: { part_id: part } }, body: { facet, wide } }),
    ),
  paint: async (part: string): Promise<Uint8Array> => {
    const answer = await fetch(`/api/needs/${part}/paint`);
    if (!answer.ok) throw problem(answer.status, null);
    return new Uint8Array(await answer.arrayBuffer());
  },
  boresIn: (part: string, [x, y, z]: readonly [number, number, number]) =>
    take<components["schemas"]["BoreOut"][]>(
      client.GET("/api/needs/{part_id}/bores", { params: { path: { part_id: part }, query: { x, y, z } } }),
    ),
  loadsAddress: (part: string, plain: boolean) => `/api/needs/${part}/loads${plain ? "?plain=true" : ""}`,
  takeLoads: (part: string, base: number, loads: Record<string, unknown>) =>
    take<Needs>(
      client.PUT("/api/needs/{part_id}/loads", { params: { path: { part_id: part } }, body: { base, loads } }),
    ),
  acknowledge: (part: string, base: number) =>
    take<Needs>(
      client.POST("/api/needs/{part_id}/acknowledge", { params: { path: { part_id: part } }, body: { base } }),
    ),
  settle: (part: string, base: number) =>
    take<Needs>(client.POST("/api/needs/{part_id}/settle", { params: { path: { part_id: part } }, body: { base } })),

  overhangs: (part: string) =>
    take<Overhangs>(client.GET("/api/overhangs/of/{part_id}", { params: { path: { part_id: part } } })),
  checkLayers: (part: string) =>
    take<Overhangs>(client.POST("/api/overhangs/of/{part_id}", { params: { path: { part_id: part } } })),
  layerLog: (analysis: string, copies: number) =>
    take<LayerLog>(
      client.GET("/api/overhangs/{result_id}/log", { params: { path: { result_id: analysis }, query: { copies } } }),
    ),
  layerBytes: async (analysis: string, what: "outlines" | "facets", digest: string): Promise<ArrayBuffer> => {
    const answer = await fetch(`/api/overhangs/${analysis}/content/${what}/${digest}`);
    if (!answer.ok) throw problem(answer.status, null);
    return answer.arrayBuffer();
  },
  settleFindings: (
    analysis: string,
    base: number,
    findings: number[],
    state: "accepted" | "not_applicable" | "open",
    reason: string,
  ) =>
    take<Overhangs>(
      client.POST("/api/overhangs/{result_id}/settle", {
        params: { path: { result_id: analysis } },
        body: { base, findings, state, reason },
      }),
    ),

  remedyCatalogue: () => take<components["schemas"]["RemedyOut"][]>(client.GET("/api/remedies")),
  remedies: (part: string) =>
    take<Remedies>(client.GET("/api/remedies/of/{part_id}", { params: { path: { part_id: part } } })),
  calculateRemedies: (part: string, steps: readonly RecipeStep[] | null) =>
    take<Remedies>(
      client.POST("/api/remedies/of/{part_id}", {
        params: { path: { part_id: part } },
        body: { steps: steps && [...steps] },
      }),
    ),
  afterwards: (part: string) =>
    take<components["schemas"]["AfterRemediesOut"]>(
      client.GET("/api/remedies/after/{part_id}", { params: { path: { part_id: part } } }),
    ),
  calculateAfterRemedies: (part: string) =>
    take<components["schemas"]["AfterRemediesOut"]>(
      client.POST("/api/remedies/after/{part_id}", { params: { path: { part_id: part } } }),
    ),
  lookAtRemedy: (part: string, step: RecipeStep, signal?: AbortSignal) =>
    take<RemedyLook>(
      client.POST("/api/remedies/of/{part_id}/look", { params: { path: { part_id: part } }, body: step, signal }),
    ),
  takeRemedies: (proposal: string) =>
    take<Work>(client.POST("/api/remedies/{result_id}/take", { params: { path: { result_id: proposal } } })),
  proposalView: (proposal: string, digest: string) => drawing(`/api/remedies/${proposal}/content/view/${digest}`),
  sayUnit: (part: string, units: UnitWord) =>
    take<{ work: Work | null }>(
      client.POST("/api/parts/{part_id}/unit", { params: { path: { part_id: part } }, body: { units } }),
    ),
  scalePart: (part: string, factor: number) =>
    take<Work>(client.POST("/api/parts/{part_id}/scaled", { params: { path: { part_id: part } }, body: { factor } })),
  pieces: (part: string) =>
    take<Pieces>(client.GET("/api/pieces/of/{part_id}", { params: { path: { part_id: part } } })),
  calculatePieces: (part: string, draft: DivideRequest) =>
    take<Pieces>(client.POST("/api/pieces/of/{part_id}", { params: { path: { part_id: part } }, body: draft })),
  takePieces: (division: string) =>
    take<Work[]>(client.POST("/api/pieces/{result_id}/take", { params: { path: { result_id: division } } })),
  divisionView: (division: string, digest: string) => drawing(`/api/pieces/${division}/content/view/${digest}`),
  pieceListAddress: (division: string) => `/api/pieces/${division}/list`,
  pieceFileAddress: (division: string) => `/api/pieces/${division}/file`,
  walls: (part: string) => take<Walls>(client.GET("/api/walls/of/{part_id}", { params: { path: { part_id: part } } })),
  measureWalls: (part: string) =>
    take<Walls>(client.POST("/api/walls/of/{part_id}", { params: { path: { part_id: part } } })),
  layerLines: (analysis: string, number: number) =>
    take<LayerLines>(
      client.GET("/api/walls/{result_id}/layer/{number}", { params: { path: { result_id: analysis, number } } }),
    ),
  calculateSize: (part: string, asked: SizeRequest, signal?: AbortSignal) =>
    take<SizeResult>(
      client.POST("/api/walls/of/{part_id}/size", { params: { path: { part_id: part } }, body: asked, signal }),
    ),
  wallsView: (analysis: string, digest: string) => drawing(`/api/walls/${analysis}/content/view/${digest}`),
  batch: (part: string) => take<Batch>(client.GET("/api/batch/of/{part_id}", { params: { path: { part_id: part } } })),
  fillPlate: (part: string) =>
    take<Batch>(client.POST("/api/batch/of/{part_id}", { params: { path: { part_id: part } } })),
  batchPoint: (analysis: string, mode: BatchMode, copies: number) =>
    take<BatchPoint>(
      client.GET("/api/batch/{result_id}/point", {
        params: { path: { result_id: analysis }, query: { mode, copies } },
      }),
    ),
  checkLayout: (analysis: string, mode: BatchMode, items: number[][]) =>
    take<Misplaced[]>(
      client.POST("/api/batch/{result_id}/layout", {
        params: { path: { result_id: analysis } },
        body: { mode, items },
      }),
    ),
  chooseBatch: (analysis: string, body: components["schemas"]["BatchChoiceIn"]) =>
    take<Batch>(client.POST("/api/batch/{result_id}/choice", { params: { path: { result_id: analysis } }, body })),
  readPrepared: (analysis: string, mode: BatchMode, copies: number, file: File) =>
    take<Prepared>(
      client.POST("/api/batch/prepared", {
        body: { file: file as unknown as string, plate: analysis, mode, copies },
        bodySerializer: () => formOf({ file, plate: analysis, mode, copies }),
      }),
    ),
  prepared: (file: string) =>
    take<Prepared>(client.GET("/api/batch/prepared/{file_id}", { params: { path: { file_id: file } } })),
  acceptDifference: (file: string, difference: number, reason: string | null) =>
    take<Prepared>(
      client.POST("/api/batch/prepared/{file_id}/accept", {
        params: { path: { file_id: file } },
        body: { difference, reason },
      }),
    ),
  putBackBatch: (part: string, base: number) =>
    take<Batch>(
      client.POST("/api/batch/of/{part_id}/put-back", { params: { path: { part_id: part } }, body: { base } }),
    ),
  changesAddress: (proposal: string) => `/api/remedies/${proposal}/changes`,

  strength: (part: string) =>
    take<Strength>(client.GET("/api/strength/of/{part_id}", { params: { path: { part_id: part } } })),
  checkStrength: (part: string, ups: readonly (readonly number[])[], coarse = false) =>
    take<Strength>(
      client.POST("/api/strength/of/{part_id}", {
        params: { path: { part_id: part } },
        body: { ups: ups.map((u) => [...u]), coarse },
      }),
    ),
  reserveNet: (check: string) =>
    take<components["schemas"]["NetOut"]>(
      client.GET("/api/strength/{check_id}/net", { params: { path: { check_id: check } } }),
    ),
  solveDirection: (check: string, up: readonly number[], again: boolean) =>
    take<DirectionAnalysis>(
      client.POST("/api/strength/{check_id}/directions", {
        params: { path: { check_id: check } },
        body: { up: [...up], again },
      }),
    ),
  analysis: (id: string) =>
    take<DirectionAnalysis>(
      client.GET("/api/strength/directions/{analysis_id}", { params: { path: { analysis_id: id } } }),
    ),
  directionLog: (id: string) =>
    take<DirectionLog>(
      client.GET("/api/strength/directions/{analysis_id}/log", { params: { path: { analysis_id: id } } }),
    ),
  exploreInfill: (id: string) =>
    take<DirectionAnalysis>(
      client.POST("/api/strength/directions/{analysis_id}/explore", { params: { path: { analysis_id: id } } }),
    ),
  calculateField: (id: string) =>
    take<DirectionAnalysis>(
      client.POST("/api/strength/directions/{analysis_id}/field", { params: { path: { analysis_id: id } } }),
    ),
  fieldAddress: (id: string) => `/api/strength/directions/${id}/field`,
  calculationAddress: (id: string) => `/api/strength/directions/${id}/calculation`,
  volume: async (analysis: string, digest: string): Promise<ArrayBuffer> => {
    const answer = await fetch(`/api/strength/directions/${analysis}/volume/${digest}`);
    if (!answer.ok) throw problem(answer.status, null);
    return answer.arrayBuffer();
  },

  farm: () => take<Farm>(client.GET("/api/farm")),
  beginRecord: (kind: Kind, record: RecordIn) =>
    take<FarmRecord>(client.POST("/api/farm", { params: { query: { kind } }, body: record })),
  amendRecord: (id: string, base: number, record: RecordIn) =>
    take<FarmRecord>(
      client.PUT("/api/farm/{record_id}", { params: { path: { record_id: id } }, body: { base, record } }),
    ),
  tableAddress: (kind: Kind) => `/api/farm/table?kind=${kind}`,
  takeTable: (kind: Kind, file: File) =>
    take<components["schemas"]["TableOut"]>(
      client.POST("/api/farm/table", {
        params: { query: { kind } },
        body: { file: file as unknown as string },
        bodySerializer: () => formOf({ file }),
      }),
    ),
  bin: () => take<StruckRow[]>(client.GET("/api/parts/bin")),
  history: (sheet: string) =>
    take<History>(client.GET("/api/sheets/{sheet_id}/history", { params: { path: { sheet_id: sheet } } })),
  takeBack: (sheet: string, number: number) =>
    take<History>(
      client.POST("/api/sheets/{sheet_id}/take-back", { params: { path: { sheet_id: sheet } }, body: { number } }),
    ),
  strike: (sheet: string) =>
    take<History>(client.DELETE("/api/sheets/{sheet_id}", { params: { path: { sheet_id: sheet } } })),
  bringBack: (sheet: string) =>
    take<History>(client.POST("/api/sheets/{sheet_id}/bring-back", { params: { path: { sheet_id: sheet } } })),

  queue: () => take<QueueRow[]>(client.GET("/api/work")),
  people: () => take<components["schemas"]["PeopleOut"]>(client.GET("/api/people")),
  log: () => take<components["schemas"]["LogRow"][]>(client.GET("/api/people/log")),
  invite: (whom: string, role: Role) =>
    take<components["schemas"]["Invited"]>(client.POST("/api/people/invitations", { body: { whom, role } })),
  revoke: (id: number) =>
    take<undefined>(
      client.DELETE("/api/people/invitations/{invitation_id}", { params: { path: { invitation_id: id } } }),
    ),
  changePerson: (id: number, role: Role, active: boolean) =>
    take<undefined>(
      client.PUT("/api/people/{person_id}", { params: { path: { person_id: id } }, body: { role, active } }),
    ),
  invitation: (token: string) =>
    take<components["schemas"]["Welcome"]>(client.GET("/api/session/join/{token}", { params: { path: { token } } })),
  isFirst: () => take<boolean>(client.GET("/api/session/first")),
  beginFirst: (body: components["schemas"]["Beginning"]) => take<Session>(client.POST("/api/session/first", { body })),
  resetPassword: (token: string, password: string) =>
    take<Session>(
      client.POST("/api/session/join/{token}/password", { params: { path: { token } }, body: { password } }),
    ),
  changePassword: (old: string, password: string) =>
    take<unknown>(client.PUT("/api/session/password", { body: { old, password } })),
  passwordLink: (person: number) =>
    take<components["schemas"]["Invited"]>(
      client.POST("/api/people/{person_id}/password-link", { params: { path: { person_id: person } } }),
    ),
  join: (token: string, username: string, name: string, password: string) =>
    take<Session>(
      client.POST("/api/session/join/{token}", { params: { path: { token } }, body: { username, name, password } }),
    ),

  work: (id: string) => take<Work>(client.GET("/api/work/{work_id}", { params: { path: { work_id: id } } })),
  cancel: (id: string) => take<Work>(client.POST("/api/work/{work_id}/cancel", { params: { path: { work_id: id } } })),
};
