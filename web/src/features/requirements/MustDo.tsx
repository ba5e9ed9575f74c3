/** The job, and the register of what the part must do. */
import { useState } from "react";

import { type Job, type Requirement, api } from "../../api/client";
import { useRefresh, useSend } from "../../api/queries";
import { figure, moment } from "../../domain/figures";
import { BREAKS, POLICIES, REQUIREMENT_KINDS, USES, newId, wordsOf } from "../../domain/needs";
import { Button, Input, Select, Trouble } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { useDesk } from "./state";

export function MustDo() {
  const { job } = useDesk();
  const [open, setOpen] = useState<string | null>(null);
  const rows = job.requirements.rows;
  return (
    <>
      <JobLine />
      <Cautions />
      <table className="mt-3 w-full border-collapse" data-testid="register">
        <thead>
          <tr className="narrow border-b-[1.4px] border-ink text-left text-second">
            <th className="w-[84px] font-normal">kind</th>
            <th className="font-normal">requirement</th>
            <th className="w-[86px] text-right font-normal">number</th>
            <th className="w-[150px] pl-3 font-normal">expected to break</th>
            <th className="w-[26px]" />
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <Row key={r.id} row={r} open={open === r.id} onOpen={() => setOpen(open === r.id ? null : r.id)} />
          ))}
        </tbody>
      </table>
      {rows.length === 0 && (
        <p className="mt-2 text-second">
          Nothing is written yet. For each load ask: if this broke the part, where would it break, and how?
        </p>
      )}
      <NewRequirement />
    </>
  );
}

/** Quantity, date, use, supports, owner: written as soon as a field is left. */
function JobLine() {
  const { job, may, write } = useDesk();
  const { need } = job;
  const put = (change: Partial<Job["need"]>) => write((j) => ({ need: { ...j.need, ...change } }));
  const [quantity, setQuantity] = useDraft(need.quantity?.toString() ?? "");
  const [owner, setOwner] = useDraft(need.owner);
  return (
    <div className="grid grid-cols-[72px_126px_186px_1fr] gap-x-3 gap-y-1" data-testid="job">
      <Input
        label="copies"
        inputMode="numeric"
        disabled={!may}
        value={quantity}
        onChange={(e) => setQuantity(e.target.value)}
        onBlur={() =>
          quantity !== (need.quantity?.toString() ?? "") &&
          void put({ quantity: quantity.trim() ? (Number(quantity) as number) : null })
        }
      />
      <Input
        label="due"
        type="date"
        disabled={!may}
        value={need.due ?? ""}
        onChange={(e) => void put({ due: e.target.value || null })}
      />
      <Select
        label="use"
        disabled={!may}
        value={need.use}
        options={USES}
        onPick={(v) => void put({ use: v as Job["need"]["use"] })}
      />
      <Input
        label="owner"
        disabled={!may}
        value={owner}
        maxLength={80}
        onChange={(e) => setOwner(e.target.value)}
        onBlur={() => owner !== need.owner && void put({ owner })}
      />
      <Select
        label="supports"
        className="col-span-3"
        disabled={!may}
        value={need.policy}
        options={POLICIES}
        onPick={(v) => void put({ policy: v as Job["need"]["policy"] })}
      />
    </div>
  );
}

/** What must be read before a part that could injure somebody is given out. */
function Cautions() {
  const { part, may } = useDesk();
  const refresh = useRefresh();
  const { send, busy, trouble } = useSend();
  if (part.cautions.length === 0) return null;
  const read = async () => {
    await send(() => api.acknowledge(part.id, part.version));
    await refresh(part);
  };
  const draft = part.job.caution;
  return (
    <div className="mt-3 border-l-4 border-crown bg-raised px-3 py-2" data-testid="cautions">
      <p className="font-semibold text-crown">This part could injure somebody when it breaks.</p>
      <ul className="list-disc pl-5">
        {part.cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {part.acknowledged ? (
        <p className="mt-1 text-second">
          Read by {draft?.by}, {draft && moment(draft.at)}.
        </p>
      ) : may ? (
        <Button className="mt-1" disabled={busy} onClick={() => void read()}>
          I have read this and will see to it
        </Button>
      ) : (
        <p className="mt-1 font-semibold">Not acknowledged yet; no file is given out.</p>
      )}
    </div>
  );
}

function Row({ row, open, onOpen }: { row: Requirement; open: boolean; onOpen: () => void }) {
  const { may, write } = useDesk();
  const out = () => write((j) => ({ requirements: { rows: j.requirements.rows.filter((r) => r.id !== row.id) } }));
  return (
    <>
      <tr className="border-b border-rule align-top hover:bg-raised" data-requirement={row.id}>
        <td className="py-1 text-second">{row.kind}</td>
        <td className="py-1">
          <button
            type="button"
            className="text-left font-semibold hover:underline"
            aria-expanded={open}
            onClick={onOpen}
          >
            {row.statement}
          </button>
          {(row.source || row.verify) && (
            <p className="narrow text-second">
              {row.source && `from ${row.source}`}
              {row.source && row.verify && " · "}
              {row.verify && `verification: ${row.verify}`}
            </p>
          )}
        </td>
        <td className="figure py-1 text-right font-semibold">{row.number?.typed ?? "–"}</td>
        <td className="py-1 pl-3 narrow">
          {row.guess ? (
            `${wordsOf(BREAKS, row.guess.how)}${row.guess.where ? `, ${row.guess.where}` : ""}`
          ) : (
            <span className="text-second">not guessed</span>
          )}
        </td>
        <td className="py-1 text-right">
          {may && (
            <button
              type="button"
              className="text-second hover:text-ink"
              aria-label={`Take out ${row.statement}`}
              onClick={() => void out()}
            >
              ×
            </button>
          )}
        </td>
      </tr>
      {open && (
        <tr className="border-b border-rule bg-raised">
          <td colSpan={5} className="p-2">
            <Details key={row.id} row={row} onDone={onOpen} />
          </td>
        </tr>
      )}
    </>
  );
}

function Details({ row, onDone }: { row: Requirement; onDone: () => void }) {
  const { may, write, ask } = useDesk();
  const [draft, setDraft] = useState({
    statement: row.statement,
    number: row.number?.typed ?? "",
    source: row.source,
    verify: row.verify,
    how: row.guess?.how ?? "",
    where: row.guess?.where ?? "",
    spot: row.guess?.spot ?? null,
  });
  const put = async () => {
    const guess = draft.how ? { how: draft.how, where: draft.where, spot: draft.spot } : null;
    const next = {
      ...row,
      statement: draft.statement,
      number: draft.number.trim() || null,
      source: draft.source,
      verify: draft.verify,
      guess,
    };
    if (await write((j) => ({ requirements: { rows: j.requirements.rows.map((r) => (r.id === row.id ? next : r)) } })))
      onDone();
  };
  const text = (key: "statement" | "number" | "source" | "verify" | "where", label: string, className = "") => (
    <Input
      label={label}
      className={className}
      disabled={!may}
      value={draft[key]}
      maxLength={400}
      onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
    />
  );
  return (
    <form
      className="grid grid-cols-6 items-end gap-x-3 gap-y-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        void put();
      }}
    >
      {text("statement", "requirement", "col-span-4")}
      {text("number", "number with unit", "col-span-2")}
      {text("source", "source", "col-span-3")}
      {text("verify", "verification", "col-span-3")}
      <Select
        label="if this broke the part, it"
        className="col-span-2"
        disabled={!may}
        value={draft.how}
        options={[["", "not guessed"], ...BREAKS]}
        onPick={(v) => setDraft({ ...draft, how: v as typeof draft.how })}
      />
      {text("where", "where", "col-span-2")}
      <div className="col-span-2 flex gap-2">
        <Button
          plain
          disabled={!may}
          onClick={() =>
            ask({
              kind: "spot",
              words: "Point at the place where it would break",
              take: (spot) => setDraft((d) => ({ ...d, spot: [...spot], how: d.how || "between layers" })),
            })
          }
        >
          {draft.spot ? `at ${draft.spot.map((v) => figure(v, 0)).join(" ")}` : "point at it"}
        </Button>
        {may && <Button type="submit">Save</Button>}
      </div>
    </form>
  );
}

function NewRequirement() {
  const { may, write } = useDesk();
  const [kind, setKind] = useState("load");
  const [statement, setStatement] = useState("");
  const [number, setNumber] = useState("");
  if (!may) return null;
  const add = async () => {
    const row = { id: newId(), kind, statement, number: number.trim() || null };
    if (!(await write((j) => ({ requirements: { rows: [...j.requirements.rows, row] } })))) return;
    setStatement("");
    setNumber("");
  };
  return (
    <form
      className="mt-3 grid grid-cols-[104px_1fr_120px_auto] items-end gap-2"
      data-testid="new-requirement"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Select label="kind" value={kind} options={REQUIREMENT_KINDS} onPick={setKind} />
      <Input
        label="requirement"
        value={statement}
        maxLength={400}
        placeholder="must carry the pull of the stay"
        onChange={(e) => setStatement(e.target.value)}
      />
      <Input label="number with unit" value={number} placeholder="250 N" onChange={(e) => setNumber(e.target.value)} />
      <Button type="submit" disabled={!statement.trim()}>
        Add
      </Button>
    </form>
  );
}
