/** For every requirement: what stands for it in the model, and what shows that it is met. */
import { useState } from "react";

import { PROOFS, newId } from "../../domain/needs";
import { Button, Input, Select, StateMark } from "../../ui/controls";
import { Out } from "./rows";
import { useDesk } from "./state";

export function Coverage() {
  const { job, needs, may, write } = useDesk();
  const rows = job.requirements.rows;
  const [kind, setKind] = useState("calculation");
  const [words, setWords] = useState("");
  const [of, setOf] = useState("");
  const target = rows.some((r) => r.id === of) ? of : (rows[0]?.id ?? "");
  if (rows.length === 0) return <p className="text-second">No requirement is written yet.</p>;
  const add = async () => {
    if (
      await write((j) => ({
        evidence: { rows: [...j.evidence.rows, { id: newId(), requirement: target, kind, words }] },
      }))
    )
      setWords("");
  };
  return (
    <>
      <table className="w-full border-collapse" data-testid="coverage">
        <thead>
          <tr className="narrow border-b-[1.4px] border-ink text-left text-second">
            <th className="w-6" />
            <th className="w-[200px] font-normal">requirement</th>
            <th className="font-normal">covered by</th>
            <th className="font-normal">verification</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const c = needs?.coverage.find((x) => x.id === r.id);
            const shown = job.evidence.rows.filter((e) => e.requirement === r.id);
            return (
              <tr key={r.id} className="border-b border-rule align-top" data-covered={shown.length > 0}>
                <td className="py-1.5">
                  <StateMark state={shown.length ? "settled" : c?.models.length ? "open" : "empty"} />
                </td>
                <td className="py-1 pr-3">
                  <span className="font-semibold">{r.statement}</span>{" "}
                  {r.number && <span className="figure">{r.number.typed}</span>}
                </td>
                <td className="py-1 pr-3">
                  {c?.models.length ? c.models.join(", ") : <span className="text-second">nothing yet</span>}
                </td>
                <td className="py-1">
                  {shown.map((e) => (
                    <p key={e.id} className="flex gap-2">
                      <span>
                        {e.kind}: {e.words}
                      </span>
                      {may && (
                        <Out
                          what={`evidence ${e.words}`}
                          onOut={() =>
                            void write((j) => ({ evidence: { rows: j.evidence.rows.filter((x) => x.id !== e.id) } }))
                          }
                        />
                      )}
                    </p>
                  ))}
                  {shown.length === 0 && <span className="font-semibold text-ochre">no evidence</span>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {may && (
        <form
          className="mt-3 grid grid-cols-[1fr_120px_1.4fr_auto] items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          <Select
            label="evidence for"
            value={target}
            options={rows.map((r) => [r.id, r.statement.slice(0, 40)] as const)}
            onPick={setOf}
          />
          <Select label="kind" value={kind} options={PROOFS} onPick={setKind} />
          <Input label="verification" value={words} maxLength={400} onChange={(e) => setWords(e.target.value)} />
          <Button type="submit" disabled={!words.trim()}>
            Add
          </Button>
        </form>
      )}
    </>
  );
}
