/** Cases combined with factors, and how far a point may move. */
import { useState } from "react";

import { figure } from "../../domain/figures";
import { axisWords, newId, typedDirection } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Button, Heading, Input, Select } from "../../ui/controls";
import { InWords, Out, Typed } from "./rows";
import { useDesk } from "./state";

export function Sums() {
  const { job, may, write, needs } = useDesk();
  const { cases, combinations } = job.loads;
  if (cases.length < 2 && combinations.length === 0) return null;
  const put = (rows: (now: typeof combinations) => unknown[]) =>
    write((j) => ({ loads: { ...j.loads, combinations: rows(j.loads.combinations) } }));
  const add = () =>
    put((now) => [
      ...now,
      {
        id: newId(),
        name: `all together ${now.length + 1}`,
        parts: cases.map((c) => ({ id: newId(), case: c.id, factor: 1 })),
      },
    ]);
  const change = (id: string, to: Record<string, unknown>) =>
    put((now) => now.map((c) => (c.id === id ? { ...c, ...to } : c)));
  return (
    <div className="mt-4" data-testid="combinations">
      <Heading
        aside={
          may && (
            <button type="button" className="text-second underline hover:text-ink" onClick={() => void add()}>
              combine the cases
            </button>
          )
        }
      >
        Combined
      </Heading>
      {combinations.map((c) => {
        const sum = needs?.combinations.find((s) => s.id === c.id);
        return (
          <div key={c.id} className="flex flex-wrap items-end gap-x-3 border-b border-rule py-1">
            <div className="w-[150px]">
              <Typed label="name" value={c.name} disabled={!may} onWrite={(name) => void change(c.id, { name })} />
            </div>
            {c.parts.map((p) => (
              <div key={p.id} className="w-[84px]">
                <Typed
                  label={`× ${cases.find((k) => k.id === p.case)?.name ?? "gone"}`}
                  value={String(p.factor)}
                  disabled={!may}
                  onWrite={(v) =>
                    void change(c.id, { parts: c.parts.map((x) => (x.id === p.id ? { ...x, factor: Number(v) } : x)) })
                  }
                />
              </div>
            ))}
            <span className="ml-auto">{sum && <InWords sum={sum} />}</span>
            {may && (
              <Out what={`combination ${c.name}`} onOut={() => void put((now) => now.filter((x) => x.id !== c.id))} />
            )}
          </div>
        );
      })}
    </div>
  );
}

export function Movements() {
  const { job, may, write, ask } = useDesk();
  const rows = job.loads.movements;
  const [draft, setDraft] = useState<{ point: number[] | null; direction: string; permitted: string; case: string }>({
    point: null,
    direction: "",
    permitted: "",
    case: "",
  });
  const put = (next: (now: typeof rows) => unknown[]) =>
    write((j) => ({ loads: { ...j.loads, movements: next(j.loads.movements) } }));
  const direction = typedDirection(draft.direction);
  const cases = job.loads.cases.map((c) => [c.id, c.name] as const);
  const add = async () => {
    const row = { id: newId(), point: draft.point, direction, permitted: draft.permitted, case: draft.case || null };
    if (await put((now) => [...now, row])) setDraft({ point: null, direction: "", permitted: "", case: "" });
  };
  return (
    <div className="mt-4" data-testid="movements">
      <Heading>Deflection limits</Heading>
      {rows.map((m) => (
        <p key={m.id} className="flex gap-3 border-b border-rule py-1">
          <span className="figure font-semibold">{m.permitted.typed}</span>
          <span>
            along <span className="figure">{axisWords(toVec3(m.direction))}</span> at{" "}
            <span className="figure">{m.point.map((v) => figure(v, 0)).join(" ")}</span> mm
            {m.case && (
              <span className="text-second">
                {" "}
                under {cases.find(([id]) => id === m.case)?.[1] ?? "a case that is gone"}
              </span>
            )}
          </span>
          <span className="ml-auto">
            {may && <Out what="this stiffness" onOut={() => void put((now) => now.filter((x) => x.id !== m.id))} />}
          </span>
        </p>
      ))}
      {may && (
        <form
          className="mt-1 grid grid-cols-[auto_1fr_1fr_1fr_auto] items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          <Button
            plain
            onClick={() =>
              ask({
                kind: "spot",
                words: "Point at the place that may not move",
                take: (p) => setDraft((d) => ({ ...d, point: [...p] })),
              })
            }
          >
            {draft.point ? draft.point.map((v) => figure(v, 0)).join(" ") : "point at it"}
          </Button>
          <Input
            label="along"
            value={draft.direction}
            placeholder="0 0 1"
            onChange={(e) => setDraft({ ...draft, direction: e.target.value })}
          />
          <Input
            label="no further than"
            value={draft.permitted}
            placeholder="0.3 mm"
            onChange={(e) => setDraft({ ...draft, permitted: e.target.value })}
          />
          <Select
            label="under"
            value={draft.case}
            options={[["", "every case"], ...cases]}
            onPick={(v) => setDraft({ ...draft, case: v })}
          />
          <Button type="submit" disabled={!draft.point || !direction || !draft.permitted.trim()}>
            Add
          </Button>
        </form>
      )}
    </div>
  );
}
