/** What is done to the part's solid in its direction: one step more or less, from wherever it is asked for. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type Outcome, outcomeAt, standing, withStep, withoutStep } from "../domain/recipe";
import { isOpen } from "../domain/work";
import { type Part, type RecipeStep, api } from "./client";
import { useRemedies, useSend, useWork } from "./queries";
import { useStage } from "./stage";

export interface Recipe {
  /** What came of the step at a place; null where none is asked for. */
  at: (place: Pick<RecipeStep, "kind" | "centre_mm">) => (Outcome & { step: RecipeStep }) | null;
  /** Null for those who may not. */
  add: ((step: RecipeStep) => Promise<boolean>) | null;
  drop: ((step: RecipeStep) => Promise<boolean>) | null;
  /** The proposal that can be made a revision; null while there is none. */
  ready: string | null;
  busy: { doing: string; done: number; total: number } | null;
  trouble: ReturnType<typeof useStage>["trouble"];
}

export function useRecipe(part: Part): Recipe {
  const proposal = useRemedies(part).data?.proposal ?? null;
  const { may, calculate, trouble } = useStage(part, "remedies");
  // What is asked for is laid to the steps that stand when it is asked for, not to those that were last seen.
  const change = (to: (steps: readonly RecipeStep[]) => RecipeStep[]) =>
    calculate(async () => api.calculateRemedies(part.id, to(standing((await api.remedies(part.id)).proposal))));
  const holds = proposal !== null && proposal.stale_because.length === 0;
  return {
    at: (place) => outcomeAt(proposal, place),
    add: may ? (step) => change((steps) => withStep(steps, step)) : null,
    drop: may ? (step) => change((steps) => withoutStep(steps, step)) : null,
    ready: holds && proposal.after && proposal.taken === null && proposal.applied.length > 0 ? proposal.id : null,
    busy: proposal?.work && isOpen(proposal.work) ? proposal.work : null,
    trouble,
  };
}

/** Makes a revision of what a recipe came to; `onMade` gets the new part once it is there. */
export function useTaking(onMade: (part: string) => void) {
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const [taking, setTaking] = useState<string>();
  const { work } = useWork(taking, (done) => {
    setTaking(undefined);
    void client.invalidateQueries();
    if (done.result) onMade(String(done.result.part));
  });
  const take = async (proposal: string) => {
    const ordered = await send(() => api.takeRemedies(proposal));
    if (ordered) setTaking(ordered.id);
  };
  return { take, busy: taking !== undefined, work: work && isOpen(work) ? work : null, trouble };
}
