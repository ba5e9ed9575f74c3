/** The farm's library: machines, materials, processes and what coupons have shown, each number with its origin. */
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { type Farm as Library, type FarmField, type FarmRecord, type Kind, api } from "../../api/client";
import { useFarm, useSend, useSession } from "../../api/queries";
import { itemWords } from "../../domain/records";
import { mayEdit } from "../../domain/roles";
import { useView } from "../../ui/address";
import { Button, Heading, Input, Select, Trouble } from "../../ui/controls";
import { EMPTY, Record } from "./Record";

const KINDS: readonly [Kind, string, string][] = [
  ["machine", "Machines", "machine model"],
  ["material", "Materials", "material"],
  ["profile", "Processes", "process"],
  ["capability", "Capability", "capability record"],
  ["size", "Sizes of hardware", "size"],
];

const KIND_KEYS = KINDS.map(([key]) => key);

export function Farm() {
  const farm = useFarm();
  const may = mayEdit(useSession().data?.role);
  const [kind, setKind] = useView("kind", KIND_KEYS);
  const [at, setAt] = useState<string | null>(null);
  const client = useQueryClient();
  const refresh = () =>
    Promise.all([["farm"], ["part"], ["study"], ["history"]].map((queryKey) => client.invalidateQueries({ queryKey })));
  if (farm.error)
    return (
      <div className="p-5">
        <Trouble message={farm.error.message} hint="Reload the page." />
      </div>
    );
  if (!farm.data) return <p className="p-5 text-second">Reading the farm's records …</p>;
  const rows = farm.data.records.filter((r) => r.kind === kind);
  const here = rows.find((r) => r.id === at) ?? rows[0];
  const struck = farm.data.struck.filter((r) => r.kind === kind);
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[300px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink bg-rail">
        <div role="tablist" aria-label="Kinds of records" className="border-b border-ink px-4 py-3">
          {KINDS.map(([key, name]) => (
            <button
              key={key}
              type="button"
              role="tab"
              aria-selected={kind === key}
              onClick={() => {
                setKind(key);
                setAt(null);
              }}
              className={`flex w-full justify-between border-l-4 px-2 py-1 text-left ${kind === key ? "border-ink bg-paper font-bold" : "border-transparent hover:bg-paper"}`}
            >
              {name}{" "}
              <span className="figure font-normal text-second">
                {farm.data.records.filter((r) => r.kind === key).length}
              </span>
            </button>
          ))}
        </div>
        <ul className="min-h-0 flex-1 overflow-y-auto px-4 py-2" aria-label="Records">
          {rows.map((r) => (
            <li key={r.id}>
              <button
                type="button"
                onClick={() => setAt(r.id)}
                aria-current={r === here}
                className={`w-full border-b border-rule py-1.5 text-left ${r === here ? "font-bold" : "hover:underline"}`}
              >
                {r.record.name}
                <span className="narrow block font-normal text-second">{summary(r)}</span>
              </button>
            </li>
          ))}
          {rows.length === 0 && (
            <li className="py-2 text-second">
              No {KINDS.find(([k]) => k === kind)?.[2]} yet; starting values are used, and say so.
            </li>
          )}
          {struck.map((r) => (
            <li key={r.id} className="flex justify-between border-b border-rule py-1.5 text-second">
              <span className="line-through">{r.record.name}</span>
              {may && (
                <button
                  type="button"
                  className="underline hover:text-ink"
                  onClick={() => void api.bringBack(r.id).then(refresh)}
                >
                  bring back
                </button>
              )}
            </li>
          ))}
        </ul>
        <Tables kind={kind} may={may} onDone={refresh} />
        {may && (
          <NewRecord key={kind} kind={kind} farm={farm.data} onDone={(id) => void refresh().then(() => setAt(id))} />
        )}
      </section>
      {here ? (
        <Record key={here.id} row={here} farm={farm.data} may={may} onDone={refresh} />
      ) : (
        <StartingValues fields={farm.data.fields[kind] ?? []} />
      )}
    </div>
  );
}

function summary(r: FarmRecord): string {
  if (r.kind === "machine")
    return `${r.record.machines.length} ${r.record.machines.length === 1 ? "machine" : "machines"}`;
  if (r.kind === "material") return `falls back to ${r.record.grade ?? ""}`;
  if (r.kind === "capability") return r.record.measured ? `measured ${r.record.measured}` : "not dated";
  if (r.kind === "size") return `${itemWords(r.record.item)} ${r.record.size}`;
  return r.record.note.slice(0, 40);
}

/** CSV out and in. */
function Tables({ kind, may, onDone }: { kind: Kind; may: boolean; onDone: () => void }) {
  const { send, trouble } = useSend();
  const [draft, setDraft] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    const done = await send(() => api.takeTable(kind, file));
    setDraft(done ? `${done.begun.length} new, ${done.changed.length} changed` : "");
    if (input.current) input.current.value = "";
    onDone();
  };
  return (
    <div className="border-t border-rule px-4 py-2">
      <a href={api.tableAddress(kind)} download className="underline hover:text-moss">
        CSV of these
      </a>
      {may && (
        <label className="ml-4 cursor-pointer underline hover:text-moss">
          bring a CSV in
          <input
            ref={input}
            type="file"
            accept=".csv,text/csv"
            className="sr-only"
            data-testid="table-file"
            onChange={(e) => void bring(e.target.files?.[0])}
          />
        </label>
      )}
      {draft && (
        <span className="ml-3 text-second" role="status">
          {draft}
        </span>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
    </div>
  );
}

function NewRecord({ kind, farm, onDone }: { kind: Kind; farm: Library; onDone: (id: string) => void }) {
  const { send, busy, trouble } = useSend();
  const [name, setName] = useState("");
  const [grade, setGrade] = useState("petg");
  const begin = async () => {
    const row = await send(() => api.beginRecord(kind, { ...EMPTY, name, grade }));
    if (!row) return;
    setName("");
    onDone(row.id);
  };
  return (
    <form
      className="space-y-1.5 border-t border-ink px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        void begin();
      }}
    >
      <Input
        label={`New ${KINDS.find(([k]) => k === kind)?.[2]}, called`}
        value={name}
        maxLength={80}
        onChange={(e) => setName(e.target.value)}
      />
      {kind === "material" && (
        <Select label="generic grade behind it" value={grade} options={Object.entries(farm.grades)} onPick={setGrade} />
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy || !name.trim()}>
        Create
      </Button>
    </form>
  );
}

function StartingValues({ fields }: { fields: readonly FarmField[] }) {
  return (
    <section className="min-h-0 overflow-y-auto p-5">
      <Heading>Nothing of your own yet</Heading>
      <p className="max-w-[60ch] text-second">
        Create a record on the left and say what you know; every number it does not say stays a starting value and is
        marked as assumed wherever it is used. A record can say:
      </p>
      <p className="mt-2 columns-3">
        {fields.map((f) => (
          <span key={f.name} className="block">
            {f.words} <span className="figure text-[11px] text-second">{f.unit}</span>
          </span>
        ))}
      </p>
    </section>
  );
}
