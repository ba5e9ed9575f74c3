/** What holds the part and what acts on it, case by case, each with its sum. */
import { useRef, useState } from "react";

import { type Balance, type CaseRow, type HoldRow, type LoadRow, api } from "../../api/client";
import { useRefresh, useSend } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { EXAMPLE, HOWS, LOAD_KINDS, NATURES, axisWords, newId, size3, typedDirection } from "../../domain/needs";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { Button, Heading, Input, Select, Trouble } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Chip } from "./Chip";
import { Movements, Sums } from "./Sums";
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

function useRegion() {
  const { job } = useDesk();
  return (id: string | null | undefined) => job.regions.rows.find((r) => r.id === id);
}

function FaceName({ id }: { id: string | null | undefined }) {
  const row = useRegion()(id);
  if (!row) return <span className="font-semibold text-crown">face is gone</span>;
  return (
    <span className="inline-flex items-center gap-1.5">
      <Chip colour={row.colour} /> {row.name}
    </span>
  );
}

function Held() {
  const { job, may, write, needs, caseId, ask } = useDesk();
  const put = (rows: (held: HoldRow[]) => unknown[]) => write((j) => ({ loads: { ...j.loads, held: rows(j.loads.held) } }));
  const change = (id: string, to: Record<string, unknown>) => put((held) => held.map((h) => (h.id === id ? { ...h, ...to } : h)));
  const answers = needs?.cases.find((c) => c.id === caseId)?.answers ?? [];
  const how = (h: HoldRow, value: string) => {
    if (value !== "bolted") {
      void change(h.id, { how: value, washer: null });
      return;
    }
    ask({ kind: "spot", words: "Point at the place of the bolt", take: (centre) => void change(h.id, { how: "bolted", washer: { centre, outer: h.washer?.outer.typed ?? "10 mm" } }) });
  };
  return (
    <div data-testid="held">
      <Heading>Held</Heading>
      {job.loads.held.length === 0 && <p className="text-second">Nothing is held yet. Point at the face that holds the part, and press Fix.</p>}
      {job.loads.held.length > 0 && (
        <table className="w-full border-collapse">
          <tbody>
            {job.loads.held.map((h) => {
              const answer = answers.find((a) => a.held === h.id);
              return (
                <tr key={h.id} className="border-b border-rule">
                  <td className="py-1">
                    <FaceName id={h.on} />
                  </td>
                  <td className="w-[138px]">
                    <Select quiet label="How it is held" disabled={!may} value={h.how} options={HOWS} onPick={(v) => how(h, v)} />
                  </td>
                  <td className="w-[96px] pl-2">
                    {h.how === "fixed" &&
                      ["x", "y", "z"].map((axis) => (
                        <label key={axis} className="figure mr-1.5 inline-flex items-center gap-0.5 text-[11px]">
                          <input
                            type="checkbox"
                            className="accent-ink"
                            disabled={!may}
                            checked={h.axes.includes(axis)}
                            onChange={(e) => {
                              const axes = ["x", "y", "z"].filter((a) => (a === axis ? e.target.checked : h.axes.includes(a))).join("");
                              if (axes) void change(h.id, { axes });
                            }}
                          />
                          {axis}
                        </label>
                      ))}
                    {h.washer && <WasherSize hold={h} onWrite={(outer) => void change(h.id, { washer: { centre: h.washer?.centre, outer } })} />}
                  </td>
                  <td className="figure w-[150px] text-right" title="what this face gives back in the case shown, the part taken as rigid">
                    {answer ? (
                      <>
                        {measure(size3(answer.force_n))} N
                        <br />
                        <span className="text-second">{measure(size3(answer.moment_nmm) / 1000)} N·m</span>
                      </>
                    ) : (
                      ""
                    )}
                  </td>
                  <td className="w-[22px] text-right">{may && <Out what="held face" onOut={() => void put((held) => held.filter((x) => x.id !== h.id))} />}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}

function WasherSize({ hold, onWrite }: { hold: HoldRow; onWrite: (outer: string) => void }) {
  const [text, setText] = useDraft(hold.washer?.outer.typed ?? "");
  return <input aria-label="Outer diameter of the washer" value={text} onChange={(e) => setText(e.target.value)} onBlur={() => text !== hold.washer?.outer.typed && onWrite(text)} className="figure w-full border border-bark bg-raised px-1" />;
}

export function Out({ what, onOut }: { what: string; onOut: () => void }) {
  return (
    <button type="button" className="text-second hover:text-ink" aria-label={`Take out ${what}`} onClick={onOut}>
      ×
    </button>
  );
}

function Case({ row, open, onOpen }: { row: CaseRow; open: boolean; onOpen: () => void }) {
  const { job, may, write, needs } = useDesk();
  const put = (to: Record<string, unknown>) => write((j) => ({ loads: { ...j.loads, cases: j.loads.cases.map((c) => (c.id === row.id ? { ...c, ...to } : c)) } }));
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
            <Typed label="factor" value={String(row.factor)} disabled={!may} onWrite={(v) => void put({ factor: Number(v) })} />
            <Select label="nature" disabled={!may} value={row.nature} options={NATURES} onPick={(nature) => void put({ nature, cycles: nature === "cyclic" ? (row.cycles ?? 1e6) : null })} />
            <Typed label="times" value={row.cycles ? String(row.cycles) : ""} disabled={!may || row.nature !== "cyclic"} onWrite={(v) => void put({ cycles: v ? Number(v) : null })} />
            <Select label="covers" disabled={!may} value={row.requirement ?? ""} options={[["", "no requirement yet"], ...wants]} onPick={(v) => void put({ requirement: v || null })} />
          </div>
          <table className="mt-1 w-full border-collapse">
            <tbody>
              {row.loads.map((l) => (
                <LoadLine key={l.id} load={l} onPut={(to) => put({ loads: row.loads.map((x) => (x.id === l.id ? { ...x, ...to } : x)) })} onOut={() => void put({ loads: row.loads.filter((x) => x.id !== l.id) })} />
              ))}
            </tbody>
          </table>
          {sum && <SumOf sum={sum} />}
        </>
      )}
    </div>
  );
}

export function InWords({ sum }: { sum: Balance }) {
  if (!sum.force_n) return <span className="text-crown">cannot be summed</span>;
  const size = size3(sum.force_n);
  return (
    <span className="figure">
      {measure(size)} N {size > 1e-6 && <span className="text-second">to {axisWords(toVec3(sum.force_n.map((v) => v / size)))}</span>}
    </span>
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
      <dd className="figure text-right">{three(sum.moment_nmm.map((m) => m / 1000), 3)}</dd>
      <dt className="text-second">held faces</dt>
      <dd className={`text-right ${sum.free.length ? "font-semibold text-crown" : ""}`}>{sum.free.length ? sum.free.join(", ") : "answer it: in balance"}</dd>
    </dl>
  );
}

export function Typed({ label, value, disabled, onWrite }: { label: string; value: string; disabled: boolean; onWrite: (value: string) => void }) {
  const [text, setText] = useDraft(value);
  return (
    <Input
      label={label}
      disabled={disabled}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onWrite(text)}
      onKeyDown={(e) => {
        if (e.key === "Enter" && text !== value) onWrite(text);
        else if (e.key === "Escape") setText(value);
      }}
    />
  );
}

function LoadLine({ load, onPut, onOut }: { load: LoadRow; onPut: (to: Record<string, unknown>) => Promise<boolean>; onOut: () => void }) {
  const { may, ask, turning } = useDesk();
  const [amount, setAmount] = useDraft(load.amount.typed);
  const direction = turning?.id === load.id ? turning.direction : load.direction ? toVec3(load.direction) : null;
  const cylinder = "cylinder" in (useRegion()(load.on)?.shape ?? {});
  return (
    <tr className="border-b border-rule" data-load={load.id}>
      <td className="w-[96px] py-1">{load.kind === "force" && cylinder ? "bearing" : load.kind === "weight" ? "own weight" : load.kind}</td>
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
            <DirectionEdit value={direction} disabled={!may} onWrite={(d, words) => void onPut({ direction: d, direction_words: words })} />
            {may && (
              <button type="button" className="ml-1.5 text-second underline hover:text-ink" onClick={() => ask({ kind: "direction", words: "Point at a flat, a bore or an edge for the direction", take: (d, words) => void onPut({ direction: d, direction_words: words }) })}>
                point
              </button>
            )}
            {may && (
              <button type="button" className="ml-1.5 text-second underline hover:text-ink" onClick={() => void onPut({ direction: direction.map((x) => -x), direction_words: "reverse" })}>
                round
              </button>
            )}
          </>
        )}
      </td>
      <td className="narrow max-w-[110px] truncate pl-2">{load.kind === "weight" ? <span className="text-second">whole part</span> : <FaceName id={load.on} />}</td>
      <td className="w-[22px] text-right">{may && <Out what={`this ${load.kind}`} onOut={onOut} />}</td>
    </tr>
  );
}

function DirectionEdit({ value, disabled, onWrite }: { value: Vec3; disabled: boolean; onWrite: (direction: Vec3, words: string) => void }) {
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
function NewLoad() {
  const { job, needs, may, write, loadOn, setLoadOn, caseId, showCase, ask } = useDesk();
  const region = useRegion();
  const [kind, setKind] = useState("force");
  const [amount, setAmount] = useState("");
  const [direction, setDirection] = useState("");
  const [into, setInto] = useState(caseId ?? "new");
  const [name, setName] = useState("");
  if (!may) return null;
  const cases = job.loads.cases.map((c) => [c.id, c.name] as const);
  const target = into !== "new" && cases.some(([id]) => id === into) ? into : "new";
  const add = async () => {
    const along = typedDirection(direction) ?? (kind === "weight" ? ([0, 0, -1] as Vec3) : null);
    const load = { id: newId(), kind, on: kind === "weight" ? null : loadOn, amount, direction: kind === "pressure" ? null : along, direction_words: direction && "typed" };
    const fresh = { id: newId(), name: name.trim() || nextName(cases.map(([, n]) => n)), loads: [load] };
    const done = await write((j) => ({
      loads: { ...j.loads, cases: target === "new" ? [...j.loads.cases, fresh] : j.loads.cases.map((c) => (c.id === target ? { ...c, loads: [...c.loads, load] } : c)) },
    }));
    if (!done) return;
    if (target === "new") showCase(fresh.id);
    setAmount("");
    setName("");
    setLoadOn(null);
  };
  const on = region(loadOn);
  const outward = needs?.regions.find((r) => r.id === loadOn)?.axis;
  return (
    <form
      className="mt-2 grid grid-cols-[96px_1fr_1fr_1fr_auto] items-end gap-2"
      data-testid="new-load"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Select label="one more" value={kind} options={LOAD_KINDS} onPick={setKind} />
      <div>
        <label className="block text-second" htmlFor="new-amount">
          amount with unit
        </label>
        <input autoFocus={loadOn !== null} id="new-amount" value={amount} placeholder={EXAMPLE[kind]} onChange={(e) => setAmount(e.target.value)} className="w-full border border-bark bg-raised px-2 py-1" />
      </div>
      <div>
        <label className="flex justify-between text-second" htmlFor="new-direction">
          direction
          {kind !== "pressure" && (
            <button type="button" className="underline hover:text-ink" onClick={() => ask({ kind: "direction", words: "Point at a flat, a bore or an edge for the direction", take: (d) => setDirection(axisWords(d)) })}>
              point
            </button>
          )}
        </label>
        <input id="new-direction" disabled={kind === "pressure"} value={kind === "pressure" ? "into the face" : direction} placeholder={outward ? `${axisWords(toVec3(outward))} or 0 0 1` : "0 0 1"} onChange={(e) => setDirection(e.target.value)} className="figure w-full border border-bark bg-raised px-2 py-1 disabled:text-second" />
      </div>
      <Select label="in" value={target} options={[["new", "a new case"], ...cases]} onPick={setInto} />
      <Button type="submit" disabled={!amount.trim()}>
        Add
      </Button>
      <p className="col-span-2 text-second">{kind === "weight" ? "on the whole part" : on ? <>on <FaceName id={on.id} /></> : "Point at a face and press Apply load, to say where it acts."}</p>
      {target === "new" && <input aria-label="Name of the new case" value={name} maxLength={80} placeholder={`called ${nextName(cases.map(([, n]) => n))}`} onChange={(e) => setName(e.target.value)} className="col-span-3 border border-bark bg-raised px-2 py-1" />}
    </form>
  );
}

function nextName(taken: readonly string[]): string {
  for (let i = taken.length + 1; ; i++) if (!taken.includes(`case ${i}`)) return `case ${i}`;
}

/** The loads file goes out, and one comes in. */
function LoadsFile() {
  const { part, may } = useDesk();
  const refresh = useRefresh();
  const { send, trouble, setTrouble } = useSend();
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    let said: unknown;
    try {
      said = JSON.parse(await file.text());
    } catch {
      said = null;
    }
    if (input.current) input.current.value = ""; // the same file, changed, can be brought in again at once
    await send(() => api.takeLoads(part.id, part.version, said as Record<string, unknown>));
    await refresh(part);
  };
  return (
    <span className="flex flex-wrap items-baseline justify-end gap-3">
      <a href={api.loadsAddress(part.id, false)} download className="text-second underline hover:text-ink">
        loads file
      </a>
      <a href={api.loadsAddress(part.id, true)} download className="text-second underline hover:text-ink" title="faces written as facet numbers">
        with facets
      </a>
      {may && (
        <label className="cursor-pointer text-second underline hover:text-ink">
          bring one in
          <input ref={input} type="file" accept=".json,application/json" className="sr-only" data-testid="loads-file" onChange={(e) => void bring(e.target.files?.[0])} />
        </label>
      )}
      {trouble && (
        <span className="basis-full" onClick={() => setTrouble(null)}>
          <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />
        </span>
      )}
    </span>
  );
}
