/** When hands are there, day by day; and how many. */
import { useState } from "react";

import { type Hands, useHands, weekApi } from "../../api/week";
import { Button, Input } from "../../ui/controls";

const NAMES = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;

interface Props {
  mayEdit: boolean;
  onChange: (call: () => Promise<unknown>) => Promise<void>;
}

const clock = (hours: number): string =>
  `${Math.floor(hours)}:${String(Math.round((hours % 1) * 60)).padStart(2, "0")}`;
const typed = (text: string): number => {
  const [h, m] = text.split(":");
  return Number(h) + (m === undefined ? 0 : Number(m) / 60);
};

export function HandsHours({ mayEdit, onChange }: Props) {
  const hands = useHands().data;
  const [open, setOpen] = useState(false);
  if (!hands) return null;
  return (
    <div data-testid="hands-hours">
      <h3 className="font-bold">Hands</h3>
      <p>
        {hands.people === 1 ? "one person" : `${hands.people} people`}
        {": "}
        {told(hands)}{" "}
        {mayEdit && !open && (
          <button type="button" className="underline" onClick={() => setOpen(true)}>
            change
          </button>
        )}
      </p>
      {open && <Edit hands={hands} onDone={() => setOpen(false)} onChange={onChange} />}
    </div>
  );
}

/** Days with the same hours said together. */
function told(hands: Hands): string {
  const runs: { first: number; last: number; hours: string }[] = [];
  hands.days.forEach((day, i) => {
    if (!day) return;
    const hours = `${clock(day[0] ?? 0)}–${clock(day[1] ?? 0)}`;
    const before = runs.at(-1);
    if (before?.last === i - 1 && before.hours === hours) before.last = i;
    else runs.push({ first: i, last: i, hours });
  });
  return runs
    .map((r) => `${NAMES[r.first] ?? ""}${r.last > r.first ? `–${NAMES[r.last] ?? ""}` : ""} ${r.hours}`)
    .join(", ");
}

function Edit({ hands, onDone, onChange }: { hands: Hands; onDone: () => void; onChange: Props["onChange"] }) {
  const [days, setDays] = useState(hands.days.map((day) => (day ? `${clock(day[0] ?? 0)}–${clock(day[1] ?? 0)}` : "")));
  const [people, setPeople] = useState(String(hands.people));
  const save = async () => {
    const hours = days.map((text) => {
      if (text.trim() === "") return null;
      const [from, to] = text.split(/[–-]/);
      return [typed(from ?? ""), typed(to ?? "")];
    });
    await onChange(() => weekApi.setHands({ days: hours, people: Number(people) || 1 }));
    onDone();
  };
  return (
    <form
      className="space-y-2 pt-1"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className="grid grid-cols-3 gap-2">
        {NAMES.map((name, i) => (
          <Input
            key={name}
            label={name}
            placeholder="nobody"
            pattern="\s*\d{1,2}(:\d{2})?\s*[–\-]\s*\d{1,2}(:\d{2})?\s*"
            title="From and to, as 8:00–17:00; empty where nobody is there"
            value={days[i] ?? ""}
            onChange={(e) => setDays(days.map((d, k) => (k === i ? e.target.value : d)))}
          />
        ))}
        <Input label="People" inputMode="numeric" value={people} onChange={(e) => setPeople(e.target.value)} />
      </div>
      <Button type="submit">Save</Button>
    </form>
  );
}
