/** A load written down: what it is, where it acts, which way; and the loads file. */
import { useRef, useState } from "react";

import { api } from "../../api/client";
import { useRefresh, useSend } from "../../api/queries";
import { loadedBy, nextName } from "../../domain/loading";
import { EXAMPLE, LOAD_KINDS, axisWords, newId, typedDirection } from "../../domain/needs";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { Button, Select, Trouble } from "../../ui/controls";
import { FaceName, useRegion } from "./rows";
import { useDesk } from "./state";

export function NewLoad() {
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
    const fresh = newId();
    const load = {
      kind,
      on: kind === "weight" ? null : loadOn,
      amount,
      direction: kind === "pressure" ? null : along,
      words: direction && "typed",
    };
    const known = target === "new" ? null : target;
    const done = await write((j) => ({ loads: loadedBy(j.loads, load, known, name.trim(), fresh) }));
    if (!done) return;
    if (target === "new") showCase(fresh);
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
        <input
          autoFocus={loadOn !== null}
          id="new-amount"
          value={amount}
          placeholder={EXAMPLE[kind]}
          onChange={(e) => setAmount(e.target.value)}
          className="w-full border border-bark bg-raised px-2 py-1"
        />
      </div>
      <div>
        <label className="flex justify-between text-second" htmlFor="new-direction">
          direction
          {kind !== "pressure" && (
            <button
              type="button"
              className="underline hover:text-ink"
              onClick={() =>
                ask({
                  kind: "direction",
                  words: "Point at a flat, a bore or an edge for the direction",
                  take: (d) => setDirection(axisWords(d)),
                })
              }
            >
              point
            </button>
          )}
        </label>
        <input
          id="new-direction"
          disabled={kind === "pressure"}
          value={kind === "pressure" ? "into the face" : direction}
          placeholder={outward ? `${axisWords(toVec3(outward))} or 0 0 1` : "0 0 1"}
          onChange={(e) => setDirection(e.target.value)}
          className="figure w-full border border-bark bg-raised px-2 py-1 disabled:text-second"
        />
      </div>
      <Select label="in" value={target} options={[["new", "a new case"], ...cases]} onPick={setInto} />
      <Button type="submit" disabled={!amount.trim()}>
        Add
      </Button>
      <p className="col-span-2 text-second">
        {kind === "weight" ? (
          "on the whole part"
        ) : on ? (
          <>
            on <FaceName id={on.id} />
          </>
        ) : (
          "Point at a face and press Apply load, to say where it acts."
        )}
      </p>
      {target === "new" && (
        <input
          aria-label="Name of the new case"
          value={name}
          maxLength={80}
          placeholder={`called ${nextName(cases.map(([, n]) => n))}`}
          onChange={(e) => setName(e.target.value)}
          className="col-span-3 border border-bark bg-raised px-2 py-1"
        />
      )}
    </form>
  );
}

/** The loads file goes out, and one comes in. */
export function LoadsFile() {
  const { part, may } = useDesk();
  const refresh = useRefresh();
  const { send, trouble, setTrouble } = useSend();
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    let draft: unknown;
    try {
      draft = JSON.parse(await file.text());
    } catch {
      draft = null;
    }
    if (input.current) input.current.value = ""; // the same file, changed, can be brought in again at once
    await send(() => api.takeLoads(part.id, part.version, draft as Record<string, unknown>));
    await refresh(part);
  };
  return (
    <span className="flex flex-wrap items-baseline justify-end gap-3">
      <a href={api.loadsAddress(part.id, false)} download className="text-second underline hover:text-ink">
        loads file
      </a>
      <a
        href={api.loadsAddress(part.id, true)}
        download
        className="text-second underline hover:text-ink"
        title="faces written as facet numbers"
      >
        with facets
      </a>
      {may && (
        <label className="cursor-pointer text-second underline hover:text-ink">
          bring one in
          <input
            ref={input}
            type="file"
            accept=".json,application/json"
            className="sr-only"
            data-testid="loads-file"
            onChange={(e) => void bring(e.target.files?.[0])}
          />
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
