/** All parts of the workshop, what is being brought in, and the way in for more; several chosen for one action. */
import { Link } from "@tanstack/react-router";
import { useDeferredValue, useMemo, useState } from "react";

import { type PartRow, api } from "../../api/client";
import { useBin, useParts, useQueue, useRefresh, useSend, useSession, useStandings } from "../../api/queries";
import { moment, size } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { EVERYTHING, ORDERS, type Sought, furthest, shelved, words } from "../../domain/shelf";
import { STAGE_NAMES, WALKING } from "../../domain/stages";
import { useInAddress } from "../../ui/address";
import { Either, Heading, Progress, Select, Trouble } from "../../ui/controls";
import { Chosen } from "./Chosen";
import { Import } from "./Import";
import { Standing } from "./Standing";

/** Rows that are drawn at once; whoever looks for one of more narrows the list. */
const SHOWN = 60;
const SINCE = [
  ["", "any day"],
  ["1", "since yesterday"],
  ["7", "within a week"],
  ["31", "within a month"],
] as const;
const STATES = [
  ["fails", "fails"],
  ["stale", "is stale"],
  ["open", "is open"],
  ["settled", "is settled"],
] as const;
const WHICH = ["all", "waits for me"] as const;

/** What is looked for, kept in the address. */
function useSought(): [Sought, (to: Partial<Sought>) => void] {
  const [given, put] = useInAddress("parts");
  const sought = useMemo<Sought>(() => {
    const found = new URLSearchParams(given ?? "");
    const order = ORDERS.find((o) => o === found.get("order"));
    return {
      search: found.get("search") ?? "",
      label: found.get("label") ?? "",
      material: found.get("material") ?? "",
      by: found.get("by") ?? "",
      stage: found.get("stage") ?? "",
      order: order ?? "newest",
      days: Number(found.get("days")) || null,
      waiting: found.has("waiting"),
    };
  }, [given]);
  const change = (to: Partial<Sought>) => {
    const out = new URLSearchParams();
    for (const [name, value] of Object.entries({ ...sought, ...to }))
      if (value && value !== EVERYTHING[name as keyof Sought]) out.set(name, String(value));
    put(out.toString() || null, true);
  };
  return [sought, change];
}

export function Shelf() {
  const parts = useParts();
  const session = useSession();
  const may = mayEdit(session.data?.role);
  const coming = useQueue(true).data?.filter((row) => row.kind === "intake" && row.part === null) ?? [];
  const [sought, seek] = useSought();
  const [more, setMore] = useState(1);
  const [now] = useState(() => Date.now());
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  const settled = useDeferredValue(sought);
  const all = useMemo(() => parts.data ?? [], [parts.data]);
  const found = useMemo(() => shelved(all, settled, now), [all, settled, now]);
  const shown = found.slice(0, SHOWN * more);
  const standings = useStandings(shown.map((p) => p.id));
  const picked = found.filter((p) => chosen.has(p.id));
  const far = useMemo(() => furthest(standings.data), [standings.data]);
  const guide = shown.find((p) => p.id === far);
  const turn = (ids: readonly string[], on: boolean) =>
    setChosen((before) => new Set(on ? [...before, ...ids] : [...before].filter((id) => !ids.includes(id))));
  return (
    <div className="grid h-full grid-cols-[1fr_380px] max-lg:grid-cols-[1fr_300px] max-md:block max-md:overflow-y-auto">
      <section className="flex min-h-0 min-w-0 flex-col border-r border-ink p-5 max-md:border-r-0 max-md:p-3">
        <Heading
          aside={
            <span className="text-second">
              {parts.data &&
                (found.length === all.length
                  ? `${all.length} ${all.length === 1 ? "part" : "parts"}`
                  : `${found.length} of ${all.length} parts`)}{" "}
              {may && all.length > 0 && (
                <a className="underline hover:text-ink" href={api.partsTableAddress(picked.map((p) => p.id))} download>
                  as a table
                </a>
              )}
            </span>
          }
        >
          Parts
        </Heading>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        {all.length > 0 && <Seek parts={all} sought={sought} may={may} onSeek={seek} />}
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
        {may && all.length > 0 && (
          <Chosen
            key={picked.map((p) => p.id).join()}
            parts={picked}
            inSight={shown.length}
            onAll={() =>
              turn(
                shown.map((p) => p.id),
                true,
              )
            }
            onNone={() => setChosen(new Set())}
          />
        )}
        <div className="relative mt-1 min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Parts">
          {parts.isPending && <p className="text-second">Reading the list …</p>}
          {parts.error && <Trouble message={parts.error.message} hint="Reload the page." />}
          {parts.data?.length === 0 && <Beginning may={may} />}
          {all.length > 0 && shown.length === 0 && (
            <p className="text-second">{sought.waiting ? "Nothing waits for you." : "No part is called that."}</p>
          )}
          {shown.length > 0 && (
            <table className="w-full border-collapse">
              <thead className="sticky top-0 z-[1] bg-paper max-md:hidden">
                <tr className="border-b-[1.4px] border-ink text-left text-second">
                  {may && <th className="w-6" aria-label="chosen" />}
                  <th className="w-[84px]" aria-label="picture" />
                  <th className="w-[38%] py-1 pr-3 font-normal">part</th>
                  <th className="pr-3 text-right font-normal">box, mm</th>
                  <th className="pr-3 font-normal max-lg:hidden">material</th>
                  <th className="pr-3 font-normal">stages</th>
                  <th className="font-normal max-lg:hidden">imported</th>
                  {may && <th aria-label="bin" />}
                </tr>
              </thead>
              <tbody>
                {shown.map((p) => (
                  <Row
                    key={p.id}
                    part={p}
                    below={!!p.revises && found.some((q) => q.id === p.revises)}
                    chosen={may ? chosen.has(p.id) : null}
                    onChoose={(on) => turn([p.id], on)}
                    onLabel={(label) => seek({ label })}
                    onBin={may ? () => void send(() => api.strike(p.sheet)).then(() => refresh(p)) : null}
                    stages={standings.data?.get(p.id)}
                  />
                ))}
              </tbody>
            </table>
          )}
          {found.length > shown.length && (
            <button type="button" className="my-2 underline" onClick={() => setMore(more + 1)}>
              {Math.min(SHOWN, found.length - shown.length)} more of {found.length - shown.length}
            </button>
          )}
        </div>
        <Bin mayEdit={may} />
      </section>
      <div className="flex min-h-0 flex-col overflow-y-auto">
        {may ? (
          <Import />
        ) : (
          <section className="p-5 text-second max-md:hidden">
            <Heading>Import a part</Heading>
            <p className="mt-2">
              You are signed in as a {session.data?.role}. An engineer of your workshop brings parts in.
            </p>
          </section>
        )}
        {guide && (
          <p className="border-t border-rule p-5 text-second max-md:p-3" data-testid="guide">
            New here?{" "}
            <Link
              to="/parts/$partId/facts"
              params={{ partId: guide.id }}
              search={WALKING}
              className="underline hover:text-ink"
            >
              Walk through {guide.name}
            </Link>
            , stage by stage.
          </p>
        )}
      </div>
    </div>
  );
}

/** What an empty workshop says of itself. */
function Beginning({ may }: { may: boolean }) {
  return (
    <div className="max-w-[62ch] space-y-3 pt-2" data-testid="beginning">
      <p className="font-semibold">No part yet.</p>
      <ol className="list-decimal space-y-1.5 pl-5">
        <li>
          {may ? "Import a part on the right" : "An engineer imports a part"}: STL, 3MF, OBJ, PLY or STEP. Its first
          page says within a minute how it would best stand, what hangs, what it takes and costs.
        </li>
        <li>Say what holds it and what loads it: point at a face, type the force. Its reserve is there at once.</li>
        <li>
          Go down the stages: direction, overhangs, pieces, walls, strength, hardware, fit, batch, trials, release. Each
          says what is open, and changes the part where you let it.
        </li>
        <li>
          The numbers of your machines stand under{" "}
          <Link to="/farm" className="underline">
            farm
          </Link>
          ; until you measure your own with{" "}
          <Link to="/coupons" className="underline">
            coupons
          </Link>
          , each says that it is assumed.
        </li>
      </ol>
    </div>
  );
}

interface SeekProps {
  parts: readonly PartRow[];
  sought: Sought;
  may: boolean;
  onSeek: (to: Partial<Sought>) => void;
}

function Seek({ parts, sought, may, onSeek }: SeekProps) {
  const any = (name: string, all: readonly string[]) =>
    [["", `any ${name}`], ...all.map((w) => [w, w] as const)] as (readonly [string, string])[];
  const labels = words(parts, (p) => p.labels);
  const [stage = "", state = ""] = sought.stage.split(" ");
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1.5">
      <input
        type="search"
        aria-label="Search parts"
        placeholder="search name, note or label"
        value={sought.search}
        onChange={(e) => onSeek({ search: e.target.value })}
        className="w-56 border border-bark bg-raised px-2 py-1"
      />
      <Either label="Order of the parts" of={ORDERS} here={sought.order} onPick={(order) => onSeek({ order })} />
      {may && (
        <Either
          label="Which parts are shown"
          of={WHICH}
          here={sought.waiting ? "waits for me" : "all"}
          onPick={(which) => onSeek({ waiting: which !== "all" })}
        />
      )}
      <div className="flex flex-wrap gap-1.5 max-md:hidden" data-testid="filters">
        {labels.length > 0 && (
          <Select
            quiet
            label="Label"
            value={sought.label}
            options={any("label", labels)}
            onPick={(label) => onSeek({ label })}
          />
        )}
        <Select
          quiet
          label="Stage"
          value={stage}
          options={[["", "any stage"], ...Object.entries(STAGE_NAMES)]}
          onPick={(to) => onSeek({ stage: to })}
        />
        {stage && (
          <Select
            quiet
            label="State of the stage"
            value={state}
            options={[["", "is not settled"], ...STATES]}
            onPick={(to) => onSeek({ stage: `${stage} ${to}`.trim() })}
          />
        )}
        <Select
          quiet
          label="Material"
          value={sought.material}
          options={any(
            "material",
            words(parts, (p) => [p.material]),
          )}
          onPick={(material) => onSeek({ material })}
        />
        <Select
          quiet
          label="Who brought it in"
          value={sought.by}
          options={any(
            "person",
            words(parts, (p) => [p.by]),
          )}
          onPick={(by) => onSeek({ by })}
        />
        <Select
          quiet
          label="Since when"
          value={String(sought.days ?? "")}
          options={SINCE}
          onPick={(days) => onSeek({ days: Number(days) || null })}
        />
      </div>
    </div>
  );
}

interface RowProps {
  part: PartRow;
  /** It stands below the part that it revises. */
  below: boolean;
  /** Null for those who may not act on several. */
  chosen: boolean | null;
  onChoose: (on: boolean) => void;
  onLabel: (label: string) => void;
  /** Null for those who may not. */
  onBin: (() => void) | null;
  stages: React.ComponentProps<typeof Standing>["stages"];
}

function Row({ part: p, below, chosen, onChoose, onLabel, onBin, stages }: RowProps) {
  return (
    <tr className={`border-b border-rule align-top hover:bg-raised ${chosen ? "bg-lit/60" : ""}`}>
      {chosen !== null && (
        <td className="py-2 max-md:hidden">
          <input
            type="checkbox"
            className="accent-ink"
            aria-label={`Choose ${p.name}${p.revision > 1 ? `, revision ${p.revision}` : ""}`}
            checked={chosen}
            onChange={(e) => onChoose(e.target.checked)}
          />
        </td>
      )}
      <td className="py-1 pr-2">
        <div className={`h-[56px] w-[74px] ${below ? "ml-2" : ""}`}>
          <img src={api.pictureAddress(p.id, p.picture)} alt="" loading="lazy" width={74} height={56} />
        </div>
      </td>
      <td className="py-2 pr-3">
        <Link to="/parts/$partId/facts" params={{ partId: p.id }} className="text-[14px] font-semibold hover:underline">
          {p.name}
        </Link>
        {p.revision > 1 && <span className="figure ml-2 text-[11px] text-second">rev {p.revision}</span>}
        {p.labels.map((label) => (
          <button
            key={label}
            type="button"
            className="narrow ml-2 border border-bark px-1 text-[11.5px] text-second hover:text-ink"
            title={`only parts labelled ${label}`}
            onClick={() => onLabel(label)}
          >
            {label}
          </button>
        ))}
        {p.note && <p className="line-clamp-2 max-w-[60ch] text-second">{p.note}</p>}
      </td>
      <td className="figure py-2 pr-3 text-right max-md:hidden">{size(p.size_mm)}</td>
      <td className="narrow py-2 pr-3 max-lg:hidden">{p.material}</td>
      <td className="py-2 pr-3">
        <Standing part={p.id} stages={stages} />
      </td>
      <td className="py-2 text-second max-lg:hidden">
        <span className="figure">{moment(p.created)}</span>
        <span className="narrow block">{p.by}</span>
      </td>
      {onBin && (
        <td className="py-2 pl-2 text-right max-md:hidden">
          <button
            type="button"
            className="text-second underline hover:text-ink"
            aria-label={`Put ${p.name} in the bin`}
            onClick={onBin}
          >
            bin
          </button>
        </td>
      )}
    </tr>
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
