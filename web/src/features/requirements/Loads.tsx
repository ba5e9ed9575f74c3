/** What holds the part and what acts on it, case by case, each with its sum. */
import { useState } from "react";

import { type Balance, type CaseRow, type LoadRow } from "../../api/client";
import { figure, measure } from "../../domain/figures";
import { NATURES, axisWords, typedDirection } from "../../domain/needs";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { Heading, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Held } from "./Held";
import { LoadsFile, NewLoad } from "./NewLoad";
import { Movements, Sums } from "./Sums";
import { FaceName, InWords, Out, Typed, useRegion } from "./rows";
import { useDesk } from "./state";

export function Loads() {
  const { job, caseId, showCase, loadOn } = useDesk();
  return (
    <>
      <Held />
      <div className="mt-4">
        <Heading aside={<LoadsFile />}>Load cases</Heading>
        {job.loads.cases.map((c) => (
          <Case key={c.id} row={c} open={c.id === caseId} onOpen={() => showCase(c.id)} />
        ))}
        <NewLoad key={loadOn} />
      </div>
      <Sums />
      <Movements />
    </>
  );
}

function Case({ row, open, onOpen }: { row: CaseRow; open: boolean; onOpen: () => void }) {
  const { job, may, write, needs } = useDesk();
  const put = (to: Record<string, unknown>) =>
    write((j) => ({ loads: { ...j.loads, cases: j.loads.cases.map((c) => (c.id === row.id ? { ...c, ...to } : c)) } }));
  const out = () => write((j) => ({ loads: { ...j.loads, cases: j.loads.cases.filter((c) => c.id !== row.id) } }));
  const sum = needs?.cases.find((c) => c.id === row.id);
  const wants = job.requirements.rows.map((r) => [r.id, r.statement.slice(0, 44)] as const);
  return (
    <div className={`border-b border-rule py-1.5 ${open ? "border-l-4 !border-l-ink pl-2" : ""}`} data-case={row.name}>
      <div className="flex items-baseline gap-3">
        <button type="button" className="font-semibold hover:underline" aria-expanded={open} onClick={onOpen}>
          {row.name}
        </button>
        <span className="text-second">
          {row.nature}
          {row.cycles ? ` × ${figure(row.cycles, 0)}` : ""}
          {row.factor !== 1 ? ` · factor ${row.factor}` : ""}
        </span>
        <span className="ml-auto">{sum && <InWords sum={sum} />}</span>
        {may && <Out what={`load case ${row.name}`} onOut={() => void out()} />}
      </div>
      {open && (
        <>
          <div className="mt-1 grid grid-cols-[1fr_60px_92px_80px_1.3fr] gap-2">
            <Typed label="name" value={row.name} disabled={!may} onWrite={(name) => void put({ name })} />
            <Typed
              label="factor"
              value={String(row.factor)}
              disabled={!may}
              onWrite={(v) => void put({ factor: Number(v) })}
            />
            <Select
              label="nature"
              disabled={!may}
              value={row.nature}
              options={NATURES}
              onPick={(nature) => void put({ nature, cycles: nature === "cyclic" ? (row.cycles ?? 1e6) : null })}
            />
            <Typed
              label="times"
              value={row.cycles ? String(row.cycles) : ""}
              disabled={!may || row.nature !== "cyclic"}
              onWrite={(v) => void put({ cycles: v ? Number(v) : null })}
            />
            <Select
              label="covers"
              disabled={!may}
              value={row.requirement ?? ""}
              options={[["", "no requirement yet"], ...wants]}
              onPick={(v) => void put({ requirement: v || null })}
            />
          </div>
          <table className="mt-1 w-full border-collapse">
            <tbody>
              {row.loads.map((l) => (
                <LoadLine
                  key={l.id}
                  load={l}
                  onPut={(to) => put({ loads: row.loads.map((x) => (x.id === l.id ? { ...x, ...to } : x)) })}
                  onOut={() => void put({ loads: row.loads.filter((x) => x.id !== l.id) })}
                />
              ))}
            </tbody>
          </table>
          {sum && <SumOf sum={sum} />}
        </>
      )}
    </div>
  );
}

/** Sum of forces and moments, and whether the held faces answer it. */
function SumOf({ sum }: { sum: Balance }) {
  if (!sum.force_n || !sum.moment_nmm) return null;
  const three = (v: readonly number[], digits: number) => v.map((x) => figure(x, digits)).join("  ");
  return (
    <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3" data-testid="sum">
      <dt className="text-second">sum of forces x y z, N</dt>
      <dd className="figure text-right">{three(sum.force_n, 1)}</dd>
      <dt className="text-second">about the centre of mass x y z, N·m</dt>
      <dd className="figure text-right">
        {three(
          sum.moment_nmm.map((m) => m / 1000),
          3,
        )}
      </dd>
      <dt className="text-second">held faces</dt>
      <dd className={`text-right ${sum.free.length ? "font-semibold text-crown" : ""}`}>
        {sum.free.length ? sum.free.join(", ") : "answer it: in balance"}
      </dd>
    </dl>
  );
}

function LoadLine({
  load,
  onPut,
  onOut,
}: {
  load: LoadRow;
  onPut: (to: Record<string, unknown>) => Promise<boolean>;
  onOut: () => void;
}) {
  const { may, ask, turning } = useDesk();
  const [amount, setAmount] = useDraft(load.amount.typed);
  const direction = turning?.id === load.id ? turning.direction : load.direction ? toVec3(load.direction) : null;
  const cylinder = "cylinder" in (useRegion()(load.on)?.shape ?? {});
  return (
    <tr className="border-b border-rule" data-load={load.id}>
      <td className="w-[96px] py-1">
        {load.kind === "force" && cylinder ? "bearing" : load.kind === "weight" ? "own weight" : load.kind}
      </td>
      <td className="w-[92px]">
        <input
          aria-label={`Amount of the ${load.kind}`}
          disabled={!may}
          value={amount}
          onChange={(e) => setAmount(e.target.value)}
          onBlur={() => amount !== load.amount.typed && void onPut({ amount })}
          onKeyDown={(e) => e.key === "Enter" && amount !== load.amount.typed && void onPut({ amount })}
          className="figure w-full border border-bark bg-raised px-1 font-semibold"
        />
      </td>
      <td className="figure w-[84px] pl-2 text-right text-second">
        {measure(load.amount.n)} {load.amount.unit}
      </td>
      <td className="pl-3">
        {direction && (
          <>
            <DirectionEdit
              value={direction}
              disabled={!may}
              onWrite={(d, words) => void onPut({ direction: d, direction_words: words })}
            />
            {may && (
              <button
                type="button"
                className="ml-1.5 text-second underline hover:text-ink"
                onClick={() =>
                  ask({
                    kind: "direction",
                    words: "Point at a flat, a bore or an edge for the direction",
                    take: (d, words) => void onPut({ direction: d, direction_words: words }),
                  })
                }
              >
                point
              </button>
            )}
            {may && (
              <button
                type="button"
                className="ml-1.5 text-second underline hover:text-ink"
                onClick={() => void onPut({ direction: direction.map((x) => -x), direction_words: "reverse" })}
              >
                round
              </button>
            )}
          </>
        )}
      </td>
      <td className="narrow max-w-[110px] truncate pl-2">
        {load.kind === "weight" ? <span className="text-second">whole part</span> : <FaceName id={load.on} />}
      </td>
      <td className="w-[22px] text-right">{may && <Out what={`this ${load.kind}`} onOut={onOut} />}</td>
    </tr>
  );
}

function DirectionEdit({
  value,
  disabled,
  onWrite,
}: {
  value: Vec3;
  disabled: boolean;
  onWrite: (direction: Vec3, words: string) => void;
}) {
  const shown = axisWords(value);
  const [text, setText] = useState<string | null>(null);
  const wrong = text !== null && typedDirection(text) === null;
  const put = () => {
    const d = text === null ? null : typedDirection(text);
    if (d && text !== shown) onWrite(d, "typed");
    setText(null);
  };
  return (
    <input
      aria-label="Direction"
      aria-invalid={wrong}
      title="three numbers like 0 0 1, or −z"
      disabled={disabled}
      value={text ?? shown}
      onChange={(e) => setText(e.target.value)}
      onBlur={put}
      onKeyDown={(e) => e.key === "Enter" && put()}
      className={`figure w-[104px] border bg-raised px-1 ${wrong ? "border-crown" : "border-bark"}`}
    />
  );
}

/** One more load: on the face that was pointed at, in the case shown or in a new one. */
