/** The farm's week: what each machine prints when, when hands are needed, what is late and why; and what would be if. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { type Week as Plan, api } from "../../api/client";
import { type WhatIf, useSend, useSession, useWeek } from "../../api/queries";
import { figure } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { dayAndTime, lateWords, momentOf, plateKey, wallClock } from "../../domain/week";
import { WeekPlan } from "../../plots/WeekPlan";
import { useSize } from "../../plots/size";
import { Button, Heading, Tabs, Trouble } from "../../ui/controls";
import { HandsHours } from "./HandsHours";
import { PlateHere } from "./PlateHere";

const NOTHING: WhatIf = { without: [], people: null, hours: 0 };
const SPANS = [
  ["week", "week"],
  ["day", "today"],
] as const;

export function Week() {
  const now = useWeek(NOTHING);
  const [asked, setAsked] = useState<WhatIf>(NOTHING);
  const looks = asked.without.length > 0 || asked.people !== null || asked.hours > 0;
  const other = useWeek(asked, looks);
  const plan = (looks ? other.data : now.data) ?? now.data;
  const may = mayEdit(useSession().data?.role);
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const [here, setHere] = useState<string | null>(null);
  const [span, setSpan] = useState<"week" | "day">("week");
  const change = async (call: () => Promise<unknown>) => {
    if ((await send(call)) !== undefined) await client.invalidateQueries({ queryKey: ["week"] });
  };
  const run = plan?.runs.find((r) => plateKey(r) === here) ?? null;
  if (now.error) return <Trouble message={now.error.message} hint="Reload the page." />;
  if (!plan || !now.data) return <p className="p-5 text-second">Reading the week …</p>;
  return (
    <div className="grid h-full grid-cols-[350px_1fr_250px]">
      <section className="min-h-0 space-y-4 overflow-y-auto border-r-[1.4px] border-ink p-3.5" aria-label="Orders">
        <Heading>Week</Heading>
        <p data-testid="week-words" className={plan.late_s > 0 ? "text-crown" : ""}>
          {words(plan)}
        </p>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        <Orders plan={plan} onWithdraw={may ? (id) => void change(() => api.withdrawOrder(id)) : null} />
        <WhatIfs plan={plan} now={now.data} asked={asked} onAsk={setAsked} />
        <HandsHours mayEdit={may} onChange={change} />
      </section>
      <section className="flex min-h-0 flex-col" aria-label="Plan">
        <div className="flex items-center border-b border-rule px-3 py-1.5">
          <Tabs label="Span" tabs={SPANS} here={span} onPick={setSpan} />
          <span className="narrow ml-auto text-second">
            band: hands are there · ▸ hands needed · hatched: waits to be taken off
          </span>
        </div>
        <Drawn plan={plan} days={span === "day" ? 1 : 7} here={here} onHere={setHere} />
      </section>
      <section className="min-h-0 space-y-4 overflow-y-auto border-l border-rule p-3" aria-label="Hands">
        {run && (
          <PlateHere
            run={run}
            plan={plan}
            key={here}
            onPin={
              may && !looks
                ? (machine, start) =>
                    void change(() =>
                      api.pinPlate(run.order, {
                        number: run.number,
                        machine,
                        start: start === null ? null : momentOf(plan.zero, start),
                      }),
                    )
                : null
            }
          />
        )}
        <Day plan={plan} />
        <a href="/api/week/table" className="block underline">
          the plan as a table (CSV)
        </a>
      </section>
    </div>
  );
}

interface DrawnProps {
  plan: Plan;
  days: number;
  here: string | null;
  onHere: (plate: string | null) => void;
}

function Drawn({ plan, days, here, onHere }: DrawnProps) {
  const [box, { width }] = useSize({ width: 660, height: 600 });
  return (
    <div ref={box} className="min-h-0 flex-1 overflow-auto p-2">
      {plan.machines.length === 0 ? (
        <p className="p-3 text-second">
          No machine is in service. Write a machine record with its machines under{" "}
          <Link to="/farm" className="underline">
            farm
          </Link>
          .
        </p>
      ) : (
        <WeekPlan week={plan} days={days} width={width - 20} here={here} onHere={onHere} />
      )}
    </div>
  );
}

function words(plan: Plan): string {
  if (plan.orders.length === 0)
    return "Nothing is ordered. An order is made under Batch of a part, once a batch is chosen.";
  const late = plan.orders.filter((o) => o.late_s > 0);
  const left = plan.left.length ? ` ${plan.left.length} plates cannot be planned.` : "";
  const last = Math.max(...plan.runs.map((r) => r.free_s), 0);
  if (late.length === 0) return `All in time; the last plate is off ${dayAndTime(plan.zero, last)}.${left}`;
  const worst = late.reduce((a, b) => (b.late_s > a.late_s ? b : a));
  return `${late.length} of ${plan.orders.length} late: ${worst.part} by ${lateWords(worst.late_s)} (${worst.why}).${left}`;
}

function Orders({ plan, onWithdraw }: { plan: Plan; onWithdraw: ((id: string) => void) | null }) {
  if (plan.orders.length === 0) return null;
  return (
    <table className="w-full border-collapse" data-testid="orders">
      <thead>
        <tr className="narrow border-b border-ink text-left text-second">
          <th className="font-normal">order</th>
          <th className="text-right font-normal">parts</th>
          <th className="pl-3 font-normal">due</th>
          <th className="pl-2 font-normal">ready</th>
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
              </span>
            </td>
            <td className="figure py-1 text-right">{figure(o.quantity, 0)}</td>
            <td className="py-1 pl-3">{o.due ? wallClock(o.due, 0).day : "–"}</td>
            <td className={`py-1 pl-2 ${o.late_s > 0 ? "font-semibold text-crown" : ""}`}>
              {o.done_s === null ? "not planned" : dayAndTime(plan.zero, o.done_s)}
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

interface WhatIfsProps {
  plan: Plan;
  now: Plan;
  asked: WhatIf;
  onAsk: (asked: WhatIf) => void;
}

/** What would be without a machine, with more people or longer hours, beside what is. */
function WhatIfs({ plan, now, asked, onAsk }: WhatIfsProps) {
  const looks = plan !== now;
  const late = (p: Plan) => (p.late_s > 0 ? `late by ${lateWords(p.late_s)} in all` : "in time");
  return (
    <div className="space-y-1.5" data-testid="what-if">
      <h3 className="font-bold">What if</h3>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className="text-second">without</span>
        {now.machines.map((m) => {
          const out = asked.without.includes(m.key);
          const without = out ? asked.without.filter((k) => k !== m.key) : [...asked.without, m.key];
          return (
            <label key={m.key} className="flex items-center gap-1">
              <input type="checkbox" checked={out} onChange={() => onAsk({ ...asked, without })} />
              {m.name}
            </label>
          );
        })}
      </div>
      <div className="flex items-center gap-3">
        <label className="flex items-center gap-1.5">
          <span className="text-second">people</span>
          <input
            type="number"
            min={1}
            max={100}
            value={asked.people ?? now.people}
            onChange={(e) => {
              const people = Number(e.target.value);
              onAsk({ ...asked, people: people === now.people || !(people >= 1) ? null : people });
            }}
            className="figure w-14 border border-bark bg-raised px-1 text-right"
          />
        </label>
        <label className="flex items-center gap-1.5">
          <span className="text-second">hours more a day</span>
          <input
            type="number"
            min={0}
            max={24}
            value={asked.hours}
            onChange={(e) => onAsk({ ...asked, hours: Math.max(0, Number(e.target.value) || 0) })}
            className="figure w-14 border border-bark bg-raised px-1 text-right"
          />
        </label>
      </div>
      {looks && (
        <p className="border-l-4 border-moss bg-raised px-2 py-1" data-testid="what-if-words">
          Then {late(plan)}; now {late(now)}. Only looked at: nothing is changed.{" "}
          <Button plain className="mt-1 block" onClick={() => onAsk(NOTHING)}>
            Back to the plan
          </Button>
        </p>
      )}
    </div>
  );
}

/** What hands have to do on the next day that there is anything. */
function Day({ plan }: { plan: Plan }) {
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
              <span className="narrow block text-second">
                {v.copies} {v.part}, {Math.max(1, Math.round(v.seconds / 60))} min
              </span>
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}
