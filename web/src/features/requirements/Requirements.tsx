/** What the part must do: the register, the loads on the part, its faces, and what shows that each is met. */
import { useMemo, useState } from "react";

import { type Part, api } from "../../api/client";
import { useJobWriter, useMayWrite, useNeeds, useRefresh, useSend, useStages } from "../../api/queries";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Trouble } from "../../ui/controls";
import { Coverage } from "./Coverage";
import { Faces } from "./Faces";
import { Loads } from "./Loads";
import { MustDo } from "./MustDo";
import { type OnDeskProps, PartAndFace } from "./PartAndFace";
import { type Asking, type Desk, DeskContext, type OnDesk, type Tab } from "./state";

const TABS: readonly [Tab, string, string][] = [
  ["must", "Must do", "1"],
  ["loads", "Loads", "2"],
  ["faces", "Faces", "3"],
  ["coverage", "Coverage", "4"],
];
const TAB_KEYS = TABS.map(([key]) => key);

export function Requirements({ part }: { part: Part }) {
  const up = useMemo(() => toVec3(part.choice?.up ?? [0, 0, 1]), [part.choice?.up]);
  const may = useMayWrite(part);
  const needs = useNeeds(part);
  const { write, trouble, setTrouble } = useJobWriter(part);
  const [tab, go] = useView("tab", TAB_KEYS);
  const [asking, ask] = useState<Asking | null>(null);
  const [onDesk, setOnDesk] = useState<OnDesk | null>(null);
  const [caseId, showCase] = useState<string | null>(null);
  const [turning, setTurning] = useState<{ id: string; direction: Vec3 } | null>(null);
  const [loadOn, setLoadOn] = useState<string | null>(null);
  const { job } = part;
  const shownCase = job.loads.cases.some((c) => c.id === caseId) ? caseId : (job.loads.cases[0]?.id ?? null);
  const desk: Desk = {
    tab,
    part,
    job,
    needs: needs.data,
    may,
    write,
    asking,
    ask,
    onDesk,
    caseId: shownCase,
    showCase,
    turning,
    loadOn,
    setLoadOn,
    go,
  };

  const commands = useMemo<Command[]>(
    () => [
      ...TABS.map(([key, name, keys]) => ({ name: `Requirements: ${name.toLowerCase()}`, keys, run: () => go(key) })),
      {
        name: "Leave what was being pointed at",
        keys: "Escape",
        run: () => {
          ask(null);
          setOnDesk(null);
          setTrouble(null);
        },
      },
    ],
    [setTrouble, go],
  );
  useCommands(commands);

  const counts: Record<Tab, number> = {
    must: job.requirements.rows.length,
    loads: job.loads.cases.length,
    faces: job.regions.rows.length,
    coverage: needs.data?.coverage.filter((c) => c.evidence.length === 0).length ?? 0,
  };
  return (
    <DeskContext.Provider value={desk}>
      <div className="stage-columns grid h-full min-h-0 grid-cols-[1fr_620px]">
        <section className="flex min-h-0 min-w-0 flex-col border-r border-ink">
          <PartOnDesk up={up} onTurning={setTurning} onDesk={onDesk} setOnDesk={setOnDesk} />
        </section>
        <section className="flex min-h-0 min-w-0 flex-col">
          <div className="flex gap-5 border-b border-rule px-4 pt-2" role="tablist" aria-label="Requirements">
            {TABS.map(([key, name, keys]) => (
              <button
                key={key}
                type="button"
                role="tab"
                aria-selected={tab === key}
                title={`key ${keys}`}
                onClick={() => go(key)}
                className={`border-b-2 pb-1 text-[15px] ${tab === key ? "border-ink font-bold" : "border-transparent text-second hover:text-ink"}`}
              >
                {name}{" "}
                <span className="figure text-[11px] font-normal">
                  {key === "coverage" ? (counts.coverage ? `${counts.coverage} open` : "") : counts[key]}
                </span>
              </button>
            ))}
          </div>
          {trouble && (
            <div className="flex items-start border-b border-rule">
              <div className="min-w-0 flex-1">
                <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />
              </div>
              <button
                type="button"
                className="p-2 text-second hover:text-ink"
                aria-label="Close"
                onClick={() => setTrouble(null)}
              >
                ×
              </button>
            </div>
          )}
          <div
            className="min-h-0 flex-1 overflow-y-auto px-4 py-3"
            tabIndex={0}
            role="tabpanel"
            aria-label={TABS.find(([k]) => k === tab)?.[1]}
          >
            {tab === "must" && <MustDo />}
            {tab === "loads" && <Loads />}
            {tab === "faces" && <Faces />}
            {tab === "coverage" && <Coverage />}
          </div>
          <Complete part={part} may={may} needs={desk.needs} go={go} />
        </section>
      </div>
    </DeskContext.Provider>
  );
}

function PartOnDesk({ up, onDesk, setOnDesk, onTurning }: OnDeskProps) {
  return (
    <DeskContext.Consumer>
      {(desk) =>
        desk && <PartAndFace desk={desk} up={up} onDesk={onDesk} setOnDesk={setOnDesk} onTurning={onTurning} />
      }
    </DeskContext.Consumer>
  );
}

/** Troubles that stand in the way, and the word that the list is complete. */
function Complete({
  part,
  may,
  needs,
  go,
}: {
  part: Part;
  may: boolean;
  needs: Desk["needs"];
  go: (tab: Tab) => void;
}) {
  const refresh = useRefresh();
  const { send, busy, trouble } = useSend();
  const stage = useStages(part).data?.find((row) => row.key === "requirements");
  const troubles = needs?.troubles ?? [];
  const first = troubles[0];
  const settle = async () => {
    await send(() => api.settle(part.id, part.version));
    await refresh(part);
  };
  return (
    <footer className="border-t-[1.4px] border-ink bg-raised px-4 py-2" data-testid="complete">
      {first && (
        <button
          type="button"
          className="block w-full text-left"
          onClick={() => go(first.section === "requirements" ? "must" : first.section === "loads" ? "loads" : "faces")}
        >
          <span className="font-semibold text-ochre">{first.message}</span> {first.hint}
          {troubles.length > 1 && <span className="text-second"> · {troubles.length - 1} more</span>}
        </button>
      )}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
      <div className="flex items-center justify-between gap-4">
        <p className="text-second">
          {stage?.state === "settled"
            ? `Marked complete by ${part.job.settled?.by ?? ""}.`
            : stage?.state === "stale"
              ? "Changed since it was marked complete."
              : first || part.job.requirements.rows.length === 0
                ? ""
                : "No gaps found."}
        </p>
        {may && stage?.state !== "settled" && (
          <Button
            disabled={busy || troubles.length > 0 || part.job.requirements.rows.length === 0}
            onClick={() => void settle()}
          >
            Mark complete
          </Button>
        )}
      </div>
    </footer>
  );
}
