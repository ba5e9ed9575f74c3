/** What would be without a machine, with more people or longer hours, beside what is. */
import type { Week as Plan, WhatIf } from "../../api/week";
import { lateWords } from "../../domain/week";
import { Button } from "../../ui/controls";

export const NOTHING: WhatIf = { without: [], people: null, hours: 0, half: [], in_turn: [], better: false };

interface Props {
  plan: Plan;
  now: Plan;
  asked: WhatIf;
  onAsk: (asked: WhatIf) => void;
  /** Makes it so; null for those who may not. */
  onTake: (() => void) | null;
}

export function WhatIfs({ plan, now, asked, onAsk, onTake }: Props) {
  const looks = plan !== now && !asked.better;
  const other = asked.half.length + asked.in_turn.length > 0;
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
              <input type="checkbox" checked={out} onChange={() => onAsk({ ...asked, without, better: false })} />
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
              onAsk({ ...asked, better: false, people: people === now.people || !(people >= 1) ? null : people });
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
            onChange={(e) => onAsk({ ...asked, better: false, hours: Math.max(0, Number(e.target.value) || 0) })}
            className="figure w-14 border border-bark bg-raised px-1 text-right"
          />
        </label>
      </div>
      {now.orders
        .filter((o) => o.printed === 0 && o.late_s > 0)
        .map((o) => (
          <label key={o.id} className="flex items-center gap-1.5">
            <span className="text-second">{o.part}</span>
            <select
              aria-label={`${o.part} printed otherwise`}
              className="border border-bark bg-raised px-1"
              value={asked.half.includes(o.id) ? "half" : asked.in_turn.includes(o.id) ? "in_turn" : ""}
              onChange={(e) => {
                const rest = (ids: string[]) => ids.filter((id) => id !== o.id);
                const add = (name: string) => (e.target.value === name ? [o.id] : []);
                onAsk({
                  ...asked,
                  better: false,
                  half: [...rest(asked.half), ...add("half")],
                  in_turn: [...rest(asked.in_turn), ...add("in_turn")],
                });
              }}
            >
              <option value="">as it was ordered</option>
              <option value="half">half as many on a plate</option>
              <option value="in_turn">one after another</option>
            </select>
          </label>
        ))}
      {looks && (
        <p className="border-l-4 border-moss bg-raised px-2 py-1" data-testid="what-if-words">
          Then {late(plan)}; now {late(now)}. Only looked at: nothing is changed.{" "}
          {other && "Which batch an order is printed in is chosen under Batch of its part. "}
          <span className="mt-1 flex gap-2">
            {onTake && !other && <Button onClick={onTake}>Make it so</Button>}
            <Button plain onClick={() => onAsk(NOTHING)}>
              Back to the plan
            </Button>
          </span>
        </p>
      )}
    </div>
  );
}
