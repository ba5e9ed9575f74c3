/** All parts of the workshop, what is being brought in, and the way in for more. */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { type PartRow, api } from "../../api/client";
import { useBin, useParts, useQueue, useRefresh, useSend, useSession, useStandings } from "../../api/queries";
import { moment, size } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { Either, Heading, Progress, Trouble } from "../../ui/controls";
import { Import } from "./Import";
import { Standing, waiting } from "./Standing";

const SHOWN = ["all", "waits for me"] as const;

type Order = "newest" | "name" | "open first";
const ORDERS: readonly Order[] = ["newest", "name", "open first"];

/** Parts whose name or note holds what is searched for, in the order asked for, each part's revisions below it. */
export function shelved(parts: readonly PartRow[], search: string, order: Order): PartRow[] {
  const byId = new Map(parts.map((p) => [p.id, p]));
  const root = (p: PartRow): PartRow => {
    const before = p.revises ? byId.get(p.revises) : undefined;
    return before && before !== p ? root(before) : p;
  };
  const families = new Map<PartRow, PartRow[]>();
  for (const p of parts) {
    const first = root(p);
    families.set(first, [...(families.get(first) ?? []), p]);
  }
  const wanted = search.trim().toLowerCase();
  const found = [...families].filter(([, rows]) =>
    rows.some((p) => `${p.name} ${p.note}`.toLowerCase().includes(wanted)),
  );
  const newest = (rows: PartRow[]) =>
    rows
      .map((p) => p.created)
      .sort()
      .at(-1) ?? "";
  const open = (rows: PartRow[]) => (rows.some((p) => !p.settled) ? 0 : 1);
  found.sort(([a, ours], [b, theirs]) =>
    order === "name"
      ? a.name.localeCompare(b.name)
      : (order === "open first" ? open(ours) - open(theirs) : 0) || newest(theirs).localeCompare(newest(ours)),
  );
  return found.flatMap(([first, rows]) => [
    first,
    ...rows.filter((p) => p !== first).sort((a, b) => a.revision - b.revision),
  ]);
}

export function Shelf() {
  const parts = useParts();
  const session = useSession();
  const may = mayEdit(session.data?.role);
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  const coming = useQueue(true).data?.filter((row) => row.kind === "intake" && row.part === null) ?? [];
  const [search, setSearch] = useState("");
  const [order, setOrder] = useState<Order>("newest");
  const standings = useStandings();
  const [which, setWhich] = useState<(typeof SHOWN)[number]>("all");
  const shown = shelved(parts.data ?? [], search, order).filter(
    (p) => which === "all" || waiting(standings.data?.get(p.id)).length > 0,
  );
  const strike = async (part: PartRow) => {
    await send(() => api.strike(part.sheet));
    await refresh(part);
  };
  return (
    <div className="grid h-full grid-cols-[1fr_380px]">
      <section className="flex min-h-0 flex-col border-r border-ink p-5">
        <Heading
          aside={
            <span className="text-second">
              {parts.data ? `${parts.data.length} ${parts.data.length === 1 ? "part" : "parts"}` : ""}
            </span>
          }
        >
          Parts
        </Heading>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        {!!parts.data?.length && (
          <div className="mt-2 flex items-center gap-3">
            <input
              type="search"
              aria-label="Search parts"
              placeholder="search name or note"
              value={search}
              onChange={(e) => setSearch(e.target.value)}
              className="w-64 border border-bark bg-raised px-2 py-1"
            />
            <Either label="Order of the parts" of={ORDERS} here={order} onPick={setOrder} />
            {may && <Either label="Which parts are shown" of={SHOWN} here={which} onPick={setWhich} />}
          </div>
        )}
        {coming.length > 0 && (
          <ul className="mt-2 border-y border-rule" data-testid="coming">
            {coming.map((row) => (
              <li key={row.id} className="flex items-center gap-3 py-1">
                <span className="min-w-0 flex-1 truncate font-semibold">{row.title}</span>
                <span className="text-second">{row.place ? `place ${row.place} in the queue` : "being read"}</span>
                <Progress
                  doing={row.state === "waiting" ? "" : row.doing}
                  done={row.done}
                  total={row.total}
                  onCancel={may ? () => void api.cancel(row.id) : undefined}
                />
              </li>
            ))}
          </ul>
        )}
        <div className="mt-3 min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Parts">
          {parts.isPending && <p className="text-second">Reading the list …</p>}
          {parts.error && <Trouble message={parts.error.message} hint="Reload the page." />}
          {parts.data?.length === 0 && <p className="text-second">No part yet. Import one on the right.</p>}
          {!!parts.data?.length && shown.length === 0 && (
            <p className="text-second">{which === "all" ? "No part is called that." : "Nothing waits for you."}</p>
          )}
          {shown.length > 0 && (
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-paper">
                <tr className="border-b-[1.4px] border-ink text-left text-second">
                  <th className="py-1 pr-3 font-normal">part</th>
                  <th className="pr-3 text-right font-normal">box, mm</th>
                  <th className="pr-3 font-normal">stages</th>
                  <th className="font-normal">imported</th>
                  {may && <th />}
                </tr>
              </thead>
              <tbody>
                {shown.map((p) => (
                  <tr key={p.id} className="align-top border-b border-rule hover:bg-raised">
                    <td className={`py-2 pr-3 ${p.revises && shown.some((q) => q.id === p.revises) ? "pl-5" : ""}`}>
                      <Link
                        to="/parts/$partId/facts"
                        params={{ partId: p.id }}
                        className="text-[14px] font-semibold hover:underline"
                      >
                        {p.name}
                      </Link>
                      {p.revision > 1 && <span className="figure ml-2 text-[11px] text-second">rev {p.revision}</span>}
                      {p.note && <p className="max-w-[46ch] text-second">{p.note}</p>}
                    </td>
                    <td className="figure py-2 pr-3 text-right">{size(p.size_mm)}</td>
                    <td className="py-2 pr-3">
                      <Standing part={p.id} stages={standings.data?.get(p.id)} />
                    </td>
                    <td className="figure py-2 text-second">{moment(p.created)}</td>
                    {may && (
                      <td className="py-2 pl-2 text-right">
                        <button
                          type="button"
                          className="text-second underline hover:text-ink"
                          aria-label={`Put ${p.name} in the bin`}
                          onClick={() => void strike(p)}
                        >
                          bin
                        </button>
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <Bin mayEdit={may} />
      </section>
      {mayEdit(session.data?.role) ? (
        <Import />
      ) : (
        <section className="p-5 text-second">
          <Heading>Import a part</Heading>
          <p className="mt-2">
            You are signed in as a {session.data?.role}. An engineer of your workshop brings parts in.
          </p>
        </section>
      )}
    </div>
  );
}

/** What was struck and can still be brought back. */
function Bin({ mayEdit }: { mayEdit: boolean }) {
  const bin = useBin();
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  if (!bin.data?.length) return null;
  return (
    <div className="mt-2 border-t-[1.4px] border-ink pt-2" data-testid="bin">
      <p className="font-semibold">In the bin</p>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <ul className="max-h-28 overflow-y-auto">
        {bin.data.map((p) => (
          <li key={p.id} className="flex items-baseline gap-3 py-0.5">
            <span className="min-w-0 flex-1 truncate">{p.name}</span>
            <span className="text-second">
              {p.by}; kept until {moment(p.until)}
            </span>
            {mayEdit && (
              <button
                type="button"
                className="underline hover:text-moss"
                onClick={() => void send(() => api.bringBack(p.sheet)).then(() => refresh(p))}
              >
                bring back
              </button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
