/** The plan that people were told, what has moved since, and what the solver would do better. */
import { useQueue } from "../../api/queries";
import type { Week as Plan, WhatIf } from "../../api/week";
import { lateWords, wallClockOf } from "../../domain/week";
import { Explained } from "../../ui/Explained";
import { Button } from "../../ui/controls";

interface Props {
  plan: Plan;
  asked: WhatIf;
  onLook: (better: boolean) => void;
  onTake: ((better: boolean) => Promise<void>) | null;
  onSearch: (() => void) | null;
}

export function Changes({ plan, asked, onLook, onTake, onSearch }: Props) {
  const searching = !!useQueue().data?.some((row) => row.kind === "week");
  if (plan.orders.length === 0) return null;
  const { told, better } = plan;
  const moved = told?.moved ?? [];
  const when = told && wallClockOf(plan.zero, told.at);
  const gains = better !== null && better.late_s < better.now_s - 60;
  return (
    <div className="space-y-1.5" data-testid="changes">
      <h3 className="font-bold">Plan</h3>
      {!told && <p className="text-second">Nobody has been told a plan yet: what is shown moves with every change.</p>}
      {told && (
        <p>
          Told {when?.day}, {when?.time} by {told.by}
          {moved.length === 0
            ? "; it holds."
            : `; ${moved.length} ${moved.length === 1 ? "plate moves" : "plates move"} since:`}
        </p>
      )}
      {moved.length > 0 && (
        <ul className="max-h-32 overflow-y-auto" data-testid="moved">
          {moved.map((m) => (
            <li key={`${m.order}${m.number}`} className="narrow border-t border-rule py-0.5">
              {m.part}, plate {m.number + 1}: <span className="text-second">{m.was}</span> → {m.now}
            </li>
          ))}
        </ul>
      )}
      {better && (
        <p data-testid="better">
          {gains
            ? `The solver found one that is ${lateWords(better.now_s - better.late_s)} less late, by weight.`
            : "The solver found nothing less late."}{" "}
          {better.proved ? (
            "Nothing is."
          ) : better.bound_s > 0 ? (
            <>
              Every plan is <Explained of="bound">at least</Explained> {lateWords(better.bound_s)} late by weight.
            </>
          ) : (
            "Whether anything is, is not known."
          )}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {better && !asked.better && (
          <Button plain onClick={() => onLook(true)}>
            Look at it
          </Button>
        )}
        {asked.better && (
          <>
            {onTake && <Button onClick={() => void onTake(true)}>Take the solver’s</Button>}
            <Button plain onClick={() => onLook(false)}>
              Back to the plan
            </Button>
          </>
        )}
        {!asked.better && onTake && (!told || moved.length > 0) && (
          <Button onClick={() => void onTake(false)}>Take this plan</Button>
        )}
        {!asked.better && onSearch && !better && (
          <Button plain disabled={searching} onClick={onSearch}>
            {searching ? "Searching …" : "Search for a better one"}
          </Button>
        )}
      </div>
    </div>
  );
}
