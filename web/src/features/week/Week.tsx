/** The farm's week: what each machine prints when, when hands are needed, what is late and why; and what would be if. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { useSend, useSession } from "../../api/queries";
import { type Week as Plan, type WhatIf, useWeek, weekApi } from "../../api/week";
import { mayEdit, mayPrint } from "../../domain/roles";
import { dayAndTime, lateWords, momentOf, plateKey } from "../../domain/week";
import { WeekPlan } from "../../plots/WeekPlan";
import { useSize } from "../../plots/size";
import { useView } from "../../ui/address";
import { Heading, Tabs, Trouble } from "../../ui/controls";
import { Changes } from "./Changes";
import { Day, Log } from "./Day";
import { HandsHours } from "./HandsHours";
import { Orders } from "./Orders";
import { PlateHere } from "./PlateHere";
import { NOTHING, WhatIfs } from "./WhatIfs";

const SPANS = [
  ["week", "week"],
  ["day", "today"],
] as const;

const SPAN_KEYS = SPANS.map(([key]) => key);

export function Week() {
  const now = useWeek(NOTHING);
  const [asked, setAsked] = useState<WhatIf>(NOTHING);
  const looks =
    asked.without.length > 0 ||
    asked.people !== null ||
    asked.hours > 0 ||
    asked.half.length + asked.in_turn.length > 0 ||
    asked.better;
  const other = useWeek(asked, looks);
  const plan = (looks ? other.data : now.data) ?? now.data;
  const role = useSession().data?.role;
  const may = mayEdit(role);
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const [here, setHere] = useState<string | null>(null);
  const [span, setSpan] = useView("span", SPAN_KEYS);
  const change = async (call: () => Promise<unknown>) => {
    if ((await send(call)) !== undefined) await client.invalidateQueries({ queryKey: ["week"] });
  };
  if (now.error && !now.data) return <Trouble message={now.error.message} hint="Reload the page." />;
  if (!plan || !now.data) return <p className="p-5 text-second">Reading the week …</p>;
  const run = plan.runs.find((r) => plateKey(r) === here) ?? null;
  const pin = (plate: string, machine: string | null, start: number | null) => {
    const own = plan.runs.find((r) => plateKey(r) === plate);
    if (!own) return;
    const at = start === null ? null : momentOf(plan.zero, start);
    void change(() => weekApi.pinPlate(own.order, { number: own.number, machine, start: at }));
  };
  return (
    <div className="stage-columns grid h-full grid-cols-[350px_minmax(0,1fr)_250px] max-[1180px]:grid-cols-[290px_minmax(0,1fr)_210px]">
      <section className="min-h-0 space-y-4 overflow-y-auto border-r-[1.4px] border-ink p-3.5" aria-label="Orders">
        <Heading>Week</Heading>
        <p data-testid="week-words" className={plan.late_s > 0 ? "text-crown" : ""}>
          {words(plan)}
        </p>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        <Orders plan={plan} onWithdraw={may ? (id) => void change(() => weekApi.withdrawOrder(id)) : null} />
        <Changes
          plan={plan}
          asked={asked}
          onLook={(better) => setAsked({ ...NOTHING, better })}
          onTake={
            may
              ? async (better) => {
                  await change(() => weekApi.takePlan(better));
                  setAsked(NOTHING);
                }
              : null
          }
          onSearch={may ? () => void change(weekApi.search) : null}
        />
        <WhatIfs
          plan={plan}
          now={now.data}
          asked={asked}
          onAsk={setAsked}
          onTake={may ? () => void change(() => weekApi.takeWhatIf(asked)).then(() => setAsked(NOTHING)) : null}
        />
        <HandsHours mayEdit={may} onChange={change} />
      </section>
      <section className="flex min-h-0 min-w-0 flex-col overflow-x-auto" aria-label="Plan">
        <div className="flex items-center border-b border-rule px-3 py-1.5">
          <Tabs label="Span" tabs={SPANS} here={span} onPick={setSpan} />
          <span className="narrow ml-auto text-second">
            band: hands are there · ▸ hands needed · hatched: waits to be taken off
            {may && " · drag a plate to pin it"}
          </span>
        </div>
        <Drawn
          plan={plan}
          days={span === "day" ? 1 : 7}
          here={here}
          onHere={setHere}
          onMove={may && !looks ? pin : null}
        />
      </section>
      <section className="min-h-0 space-y-4 overflow-y-auto border-l border-rule p-3" aria-label="Hands">
        {run && (
          <PlateHere
            run={run}
            plan={plan}
            key={here}
            onChange={mayPrint(role) && !looks ? change : null}
            onPin={may && !looks && !run.print ? (machine, start) => pin(plateKey(run), machine, start) : null}
          />
        )}
        <Day plan={plan} />
        <p className="space-x-3">
          <a href="/api/week/table" className="underline">
            as a table (CSV)
          </a>
          <a href="/api/week/calendar" className="underline">
            as a calendar
          </a>
        </p>
        <Log plan={plan} />
      </section>
    </div>
  );
}

interface DrawnProps {
  plan: Plan;
  days: number;
  here: string | null;
  onHere: (plate: string | null) => void;
  onMove: ((plate: string, machine: string, start: number) => void) | null;
}

function Drawn({ plan, days, here, onHere, onMove }: DrawnProps) {
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
        <WeekPlan week={plan} days={days} width={width - 20} here={here} onHere={onHere} onMove={onMove} />
      )}
    </div>
  );
}

function words(plan: Plan): string {
  if (plan.orders.length === 0)
    return "Nothing is ordered. An order is made under Batch of a part, once a batch is chosen.";
  const late = plan.orders.filter((o) => o.late_s > 0);
  const left = plan.left.length ? ` ${plan.left.length} plates cannot be planned.` : "";
  if (plan.runs.length === 0 && !left) return "Everything that was ordered is printed.";
  const last = Math.max(...plan.runs.map((r) => r.free_s), 0);
  if (late.length === 0) return `All in time; the last plate is off ${dayAndTime(plan.zero, last)}.${left}`;
  const worst = late.reduce((a, b) => (b.late_s > a.late_s ? b : a));
  return `${late.length} of ${plan.orders.length} late: ${worst.part} by ${lateWords(worst.late_s)} (${worst.why}).${left}`;
}
