/** A recipe: the steps that are done to a part's solid, and what came of one of them. */
import { isOpen } from "./work";

interface Place {
  kind: string;
  centre_mm: readonly number[];
}

export interface Step<Kind extends string = string> {
  key: string;
  kind: Kind;
  centre_mm: number[];
  on: boolean;
  set?: Record<string, number> | undefined;
  may_fill: boolean;
}

interface Applied extends Place {
  words: string;
  volume_added_mm3: number;
  volume_removed_mm3: number;
}

interface Question extends Place {
  key: string;
  space: string;
  filled_mm3: number;
}

/** What the server knows of a recipe: each step is among those done, those that do not fit, or those that are asked about. */
export interface Came<S extends Place> {
  stale_because: readonly string[];
  /** The revision that was made of it. */
  taken: string | null;
  work: { state: string; problem: { message: string } | null } | null;
  steps: readonly S[];
  applied: readonly Applied[];
  unfit: readonly { kind: string; why: string; centre_mm?: readonly number[] | null }[];
  questions: readonly Question[];
}

export const stepAt = <Kind extends string>(
  key: string,
  kind: Kind,
  centre: readonly number[],
  set: Record<string, number> = {},
): Step<Kind> => ({ key, kind, centre_mm: [...centre], on: true, set, may_fill: false });

/** mm within which two places are one: a region's middle is found anew after every step before it. */
const SAME = 0.05;

export const samePlace = (a: Place, b: Place): boolean =>
  a.kind === b.kind && (a.kind === "plate" || a.centre_mm.every((v, i) => Math.abs(v - (b.centre_mm[i] ?? 0)) < SAME));

/** The steps that one more is laid to: of a proposal that still holds and is no revision yet. */
export const standing = <S extends Place>(proposal: Came<S> | null | undefined): readonly S[] =>
  proposal && proposal.stale_because.length === 0 && proposal.taken === null ? proposal.steps : [];

export const withStep = <S extends Place>(steps: readonly S[], step: S): S[] => [...withoutStep(steps, step), step];

export const withoutStep = <S extends Place>(steps: readonly S[], place: Place): S[] =>
  steps.filter((s) => !samePlace(s, place));

export type Outcome =
  | { state: "busy" }
  | { state: "made"; row: Applied }
  | { state: "refused"; why: string }
  | { state: "asks"; question: Question };

/** What came of the step at a place, of those in the recipe; null where the recipe has none there. */
export function outcomeAt<S extends Place & { key: string; on: boolean }>(
  proposal: Came<S> | null | undefined,
  place: Place,
): (Outcome & { step: S }) | null {
  const step = proposal?.steps.find((s) => s.on && samePlace(s, place));
  if (!proposal || !step || proposal.stale_because.length > 0) return null;
  if (isOpen(proposal.work)) return { state: "busy", step };
  if (proposal.work?.problem) return { state: "refused", why: proposal.work.problem.message, step };
  const row = proposal.applied.find((a) => samePlace(a, place));
  if (row) return { state: "made", row, step };
  const question = proposal.questions.find((q) => q.key === step.key && samePlace(q, place));
  if (question) return { state: "asks", question, step };
  const unfit = proposal.unfit.find((u) => u.centre_mm && samePlace({ kind: u.kind, centre_mm: u.centre_mm }, place));
  return { state: "refused", why: unfit?.why ?? "What is done elsewhere has cured it already.", step };
}
