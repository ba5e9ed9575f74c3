/** What hands have to do next, and what has happened at the machines. */
import { Link } from "@tanstack/react-router";

import type { Week as Plan } from "../../api/week";
import { wallClock, wallClockOf } from "../../domain/week";

/** What hands have to do on the next day that there is anything. */
export function Day({ plan }: { plan: Plan }) {
  const first = plan.day[0];
  return (
    <div data-testid="day">
      <h3 className="font-bold">Hands{first && `, ${wallClock(plan.zero, first.at_s).day}`}</h3>
      {!first && <p className="text-second">Nothing to do.</p>}
      <ol>
        {plan.day.map((v) => (
          <li key={`${v.at_s}${v.machine}${v.what}`} className="flex gap-2 border-t border-rule py-0.5">
            <span className="figure">{wallClock(plan.zero, v.at_s).time}</span>
            <span>
              <b>{v.machine}</b> {v.what}
              <Link
                to="/plates/$order/$number"
                params={{ order: v.order, number: String(v.number) }}
                className="narrow block text-second underline"
              >
                {v.copies} {v.part}, {Math.max(1, Math.round(v.seconds / 60))} min
              </Link>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}

export function Log({ plan }: { plan: Plan }) {
  if (plan.log.length === 0) return null;
  return (
    <div data-testid="farm-log">
      <h3 className="font-bold">Log</h3>
      <ol>
        {plan.log.map((e, i) => (
          <li key={`${e.at}${i}`} className="flex gap-2 border-t border-rule py-0.5">
            <span className="figure">{wallClockOf(plan.zero, e.at).time}</span>
            <span>
              <b>{e.machine}</b> {e.words}
              <span className="narrow block text-second">
                {e.part}, plate {e.number + 1}
                {e.by && `, ${e.by}`}
              </span>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}
