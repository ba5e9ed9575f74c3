/** What is ordered: how many, by when, when it is ready, how many are counted. */
import { Link } from "@tanstack/react-router";

import type { Week as Plan } from "../../api/week";
import { figure } from "../../domain/figures";
import { dayAndTime, lateWords, plateKey, wallClockOf } from "../../domain/week";
import { Explained } from "../../ui/Explained";

interface Props {
  plan: Plan;
  onWithdraw: ((id: string) => void) | null;
}

export function Orders({ plan, onWithdraw }: Props) {
  if (plan.orders.length === 0) return null;
  return (
    <table className="w-full border-collapse" data-testid="orders">
      <thead>
        <tr className="narrow border-b border-ink text-left text-second">
          <th className="font-normal">order</th>
          <th className="text-right font-normal">parts</th>
          <th className="pl-3 font-normal">due</th>
          <th className="pl-2 font-normal">
            <Explained of="late">ready</Explained>
          </th>
        </tr>
      </thead>
      <tbody>
        {plan.orders.map((o) => (
          <tr key={o.id} className="border-b border-rule align-top" data-order={o.id}>
            <td className="py-1">
              <Link to="/parts/$partId/batch" params={{ partId: o.part_id }} className="font-semibold hover:underline">
                {o.part}
              </Link>
              <span className="narrow block text-second">
                {o.printed > 0 ? `${o.printed} of ` : ""}
                {o.plates} {o.plates === 1 ? "plate" : "plates"}
                {o.urgent && ", urgent"}
                {onWithdraw && (
                  <>
                    {" · "}
                    <button type="button" className="underline hover:text-ink" onClick={() => onWithdraw(o.id)}>
                      withdraw
                    </button>
                  </>
                )}
                {o.kit && (
                  <span className="block">
                    kit {o.kit}
                    {o.kit_done_s !== null && `: complete ${dayAndTime(plan.zero, o.kit_done_s)}`}
                  </span>
                )}
              </span>
            </td>
            <td className="figure py-1 text-right">
              {figure(o.quantity, 0)}
              {o.printed > 0 && (
                <span className="narrow block text-second" title="Counted so far">
                  {o.good} good
                  {o.bad > 0 && <span className="block text-crown">{o.bad} bad</span>}
                </span>
              )}
            </td>
            <td className="py-1 pl-3">{o.due ? wallClockOf(plan.zero, o.due).day : "–"}</td>
            <td className={`py-1 pl-2 ${o.late_s > 0 ? "font-semibold text-crown" : ""}`}>
              {o.printed === o.plates ? "done" : o.done_s === null ? "not planned" : dayAndTime(plan.zero, o.done_s)}
              {o.late_s > 0 && (
                <span className="narrow block font-normal">
                  late by {lateWords(o.late_s)}: {o.why}
                </span>
              )}
            </td>
          </tr>
        ))}
        {plan.left.map((l) => (
          <tr key={plateKey(l)} className="border-b border-rule text-crown">
            <td className="py-1" colSpan={4}>
              {l.part}, plate {l.number + 1}: {l.why}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
