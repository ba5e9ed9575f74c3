/** What came of a step on the solid, told where it was asked for; undone or taken from there. */
import { type ReactNode } from "react";

import { measure } from "../domain/figures";
import type { Outcome, Step } from "../domain/recipe";
import { Button, Progress } from "./controls";

interface Props<S extends Step> {
  /** The part's recipe: what came of the step at a place, one step more, one less. */
  recipe: {
    at: (place: Pick<S, "kind" | "centre_mm">) => (Outcome & { step: S }) | null;
    add: ((step: S) => unknown) | null;
    drop: ((step: S) => unknown) | null;
    ready: string | null;
    busy: { doing: string; done: number; total: number } | null;
  };
  /** Makes a revision of all that is done; null for those who may not. */
  taking: { take: (proposal: string) => unknown; busy: boolean };
  place: Pick<S, "kind" | "centre_mm">;
  /** What a remedy is called. */
  named: (key: string) => { title: string };
}

export function StepOutcome<S extends Step>({ recipe, taking, place, named }: Props<S>) {
  const came = recipe.at(place);
  if (!came) return null;
  const { title } = named(came.step.key);
  if (came.state === "busy")
    return (
      <div data-testid="outcome" data-outcome="busy">
        <Progress doing={recipe.busy?.doing ?? title} done={recipe.busy?.done ?? 0} total={recipe.busy?.total ?? 0} />
      </div>
    );
  const { add, drop, ready } = recipe;
  const undo = drop && (
    <button type="button" className="underline" onClick={() => drop(came.step)}>
      Undo
    </button>
  );
  if (came.state === "made")
    return (
      <Told state="made" tone="border-lichen">
        <p>
          <b>{title} done:</b> {came.row.words}{" "}
          <span className="text-second">
            Adds {measure(came.row.volume_added_mm3)} mm³, takes {measure(came.row.volume_removed_mm3)} mm³ away; the
            layers were checked again.
          </span>
        </p>
        <div className="flex items-baseline gap-3">
          {add && ready && (
            <Button plain className="!py-0.5" disabled={taking.busy} onClick={() => taking.take(ready)}>
              Take as a revision
            </Button>
          )}
          {undo}
        </div>
      </Told>
    );
  if (came.state === "refused")
    return (
      <Told state="refused" tone="border-ochre-mark">
        <p>
          <b className="text-ochre">{title} not done:</b> {came.why}
        </p>
        {undo}
      </Told>
    );
  return (
    <Told state="asks" tone="border-ochre-mark">
      <p>
        <b className="text-ochre">{title}</b> would fill{" "}
        <span className="figure">{measure(came.question.filled_mm3)}</span> mm³ of the {came.question.space}. Does
        anything run, turn or sit there?
      </p>
      <div className="flex items-baseline gap-3">
        {add && (
          <button type="button" className="underline" onClick={() => add({ ...came.step, may_fill: true })}>
            Nothing does: add it all the same
          </button>
        )}
        {undo}
      </div>
    </Told>
  );
}

function Told({ state, tone, children }: { state: Outcome["state"]; tone: string; children: ReactNode }) {
  return (
    <div
      className={`space-y-1 border-l-4 bg-raised px-3 py-1.5 text-ink ${tone}`}
      role="status"
      data-testid="outcome"
      data-outcome={state}
    >
      {children}
    </div>
  );
}
