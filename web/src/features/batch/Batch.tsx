/** How many on a plate, all together or one after another: what the wait does to the weld, what it gives and costs. */
import { useEffect, useEffectEvent, useMemo, useState } from "react";

import { useBatch, useBatchPoint, usePrepared } from "../../api/batch";
import { type BatchAnalysis, type Misplaced, type Part, api } from "../../api/client";
import { useCurrency, useRefresh, useSession } from "../../api/queries";
import { useStage } from "../../api/stage";
import { type Item, MODES, MODE_WORDS, type Mode, longTime, toItem } from "../../domain/batch";
import { figure } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { isOpen } from "../../domain/work";
import { BatchCurve } from "../../plots/BatchCurve";
import { PlateView } from "../../plots/PlateView";
import { StageHeader } from "../../ui/StageHeader";
import { useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Tabs, Trouble } from "../../ui/controls";
import { Decision } from "./Decision";
import { BatchHeadline, Figures } from "./Figures";
import { OrderParts } from "./OrderParts";
import { OtherWays } from "./OtherWays";
import { PlateSettings } from "./PlateSettings";
import { Prepared } from "./Prepared";

const TABS: readonly (readonly [Mode | "mixed", string])[] = MODES.map((m) => [m, MODE_WORDS[m]] as const);
const BELOW = [
  ["curve", "batch curve"],
  ["ways", "make or mould"],
  ["prepared", "prepared file"],
] as const;
const BELOW_KEYS = BELOW.map(([key]) => key);
const BEAT_MS = 900;

export function Batch({ part }: { part: Part }) {
  const known = useBatch(part);
  const role = useSession().data?.role;
  const refresh = useRefresh();
  const { may, send, calculate, trouble, setTrouble, onStop } = useStage(part, "batch");
  const batch = known.data?.analysis ?? null;
  const chosen = known.data?.chosen ?? null;
  const [asked, setAsked] = useState<{ mode: Mode; copies: number } | null>(null);
  const currency = useCurrency();
  const [below, setBelow] = useView("tab", BELOW_KEYS);
  const first = chosen ?? batch?.proposed ?? null;
  const mode: Mode = asked?.mode ?? first?.mode ?? "together";
  const limit = batch?.curves?.[mode].copies.at(-1) ?? 0;
  const copies = Math.min(asked?.copies ?? first?.copies ?? 1, Math.max(limit, 1));
  const point = useBatchPoint(part, batch, mode, limit > 0 ? copies : null).data ?? null;
  const shown = point && point.mode === mode && point.copies === copies ? point : null;

  const isChosen = chosen !== null && chosen.mode === mode && chosen.copies === copies && !chosen.stale;
  const rows = isChosen ? chosen.items : shown?.items;
  const given = useMemo(() => (rows ?? []).map(toItem), [rows]);
  const place = `${batch?.id} ${mode} ${copies} ${given.length}`;
  const [moved, setMoved] = useState<{ place: string; items: readonly Item[]; wrong: readonly Misplaced[] } | null>(
    null,
  );
  const layout = moved?.place === place ? moved : null;
  const items = layout?.items ?? given;
  const pick = (to: { mode?: Mode; copies?: number }) => {
    setAsked({ mode: to.mode ?? mode, copies: to.copies ?? asked?.copies ?? copies });
    setNow(null);
  };

  const [withOthers, setWithOthers] = useState(false);
  const mixed = withOthers ? (batch?.mixed ?? null) : null;
  const [now, setNow] = useState<number | null>(null);
  const [plays, setPlays] = useState(false);
  const beat = useEffectEvent(() => {
    if (now === null || now >= copies) setPlays(false);
    else setNow(now + 1);
  });
  useEffect(() => {
    if (!plays) return;
    const every = setInterval(beat, BEAT_MS);
    return () => clearInterval(every);
  }, [plays]);

  /** A copy is put somewhere else: it stays there only where the plate is proved again. */
  const move = async (number: number, to: Item) => {
    if (!batch) return;
    const next = items.map((item, i) => (i === number ? to : item));
    const wrong = await send(() =>
      api.checkLayout(
        batch.id,
        mode,
        next.map((i) => [...i]),
      ),
    );
    if (!wrong) return;
    setMoved({ place, items: wrong.length > 0 ? items : next, wrong });
    setTrouble(null);
  };
  const choose = async (reason: string, byFile: boolean) => {
    if (!batch) return;
    const body = {
      base: part.version,
      mode,
      copies,
      reason,
      prepared: byFile && read ? read.id : null,
      items: layout ? layout.items.map((i) => [...i]) : isChosen ? chosen.items : null,
    };
    if ((await send(() => api.chooseBatch(batch.id, body))) === undefined) return;
    setMoved(null);
    await refresh(part);
  };
  const putBack = async () => {
    if ((await send(() => api.putBackBatch(part.id, part.version))) !== undefined) await refresh(part);
  };

  const read = usePrepared(part, known.data?.prepared ?? null).data ?? null;
  const isRead = read?.mode === mode && read.copies === copies;
  const readFile = async (file: File) => {
    if (!batch) return;
    if ((await send(() => api.readPrepared(batch.id, mode, copies, file))) !== undefined) await refresh(part);
  };

  const accept = async (difference: number, reason: string | null) => {
    if (read && (await send(() => api.acceptDifference(read.id, difference, reason))) !== undefined)
      await refresh(part);
  };

  const commands = useMemo<Command[]>(
    () => [
      {
        name: "Batch: all together, or one after another",
        keys: "n",
        run: () =>
          setAsked((a) => ({
            mode: (a?.mode ?? mode) === "together" ? "sequential" : "together",
            copies: a?.copies ?? copies,
          })),
      },
      {
        name: "Batch curve: number of copies with the arrow keys",
        keys: "y",
        run: () => document.querySelector<HTMLElement>("[data-testid=batch-curve]")?.focus(),
      },
    ],
    [mode, copies],
  );
  useCommands(commands);

  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  const plate = batch?.plate ?? null;
  const edits = may && batch?.done === true && batch.stale_because.length === 0 && !isOpen(batch.work);
  const wrong = layout?.wrong ?? [];
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[384px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Batch"
          aside={
            plate && (
              <span className="narrow text-second">
                at most <span className="figure text-ink">{plate.items.together.length}</span> together,{" "}
                <span className="figure text-ink">{plate.items.sequential.length}</span> in turn
              </span>
            )
          }
          result={known.data?.analysis}
          complete={batch?.done ?? false}
          verb="Fill the plate"
          onCalculate={may ? () => calculate(() => api.fillPlate(part.id)) : null}
          onStop={onStop}
          trouble={trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so its layers have no inside."}
          about="Lays out as many copies as stand on the machine's bed, and calculates what the wait between layers leaves of the weld for every number of them."
        >
          {known.data && (
            <PlateSettings part={part} machine={known.data.machine} bed={batch?.bed ?? null} mayEdit={may} />
          )}
        </StageHeader>
        <div className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Batch">
          {plate && batch && limit > 0 ? (
            <>
              <Proposal
                words={shown?.words ?? ""}
                best={batch.proposed}
                here={{ mode, copies }}
                onBest={() => batch.proposed && pick(batch.proposed)}
              />
              <BatchHeadline currency={currency} point={shown} grams={plate.grams} />
              <Decision
                key={`${mode} ${copies} ${chosen?.at}`}
                chosen={chosen}
                here={isChosen}
                moved={layout !== null && layout.items !== given}
                words={MODE_WORDS[mode]}
                copies={copies}
                prepared={isRead && read?.result ? read.name : null}
                onChoose={edits ? choose : null}
                onPutBack={may && chosen ? putBack : null}
              />
              {mayEdit(role) && chosen && !chosen.stale && (
                <OrderParts part={part} fails={(chosen.measures.low ?? 1) < 1} />
              )}
              <Figures
                currency={currency}
                point={shown}
                plate={plate}
                strength={batch.strength}
                pauses={known.data?.pauses ?? []}
                machine={known.data?.machine ?? null}
                onCopies={(n) => pick({ copies: n })}
              />
            </>
          ) : plate ? (
            <p className="py-3 font-semibold text-crown" data-testid="no-room">
              Fails:{" "}
              {plate.too_high
                ? `it stands ${figure(plate.height_mm, 1)} mm high, and the machine has ${figure(batch?.bed.bed_z, 0)} mm. Choose another direction, or cut it in two.`
                : "not one copy stands on this bed. Choose another direction or machine, or cut it in two."}
            </p>
          ) : known.data ? (
            <p className="py-3 text-second">
              {batch ? "The plate is being filled …" : "No plate has been filled for this part yet."}
            </p>
          ) : null}
        </div>
      </section>
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="flex h-9 shrink-0 items-center gap-4 border-b border-rule px-3">
          <Tabs
            label="How the plate is printed"
            tabs={batch?.mixed ? [...TABS, ["mixed", "with others"]] : TABS}
            here={mixed ? "mixed" : mode}
            onPick={(m) => {
              setWithOthers(m === "mixed");
              if (m !== "mixed") pick({ mode: m });
            }}
          />
          {limit > 0 && !mixed && (
            <label className="ml-auto flex items-center gap-1.5">
              <span className="text-second">copies</span>
              <input
                type="number"
                min={1}
                max={limit}
                value={copies}
                onChange={(e) =>
                  pick({ copies: Math.max(1, Math.min(limit, Math.round(Number(e.target.value) || 1))) })
                }
                className="figure w-16 border border-bark bg-raised px-1.5 text-right"
                aria-label="Copies on the plate"
              />
            </label>
          )}
          {mode === "sequential" && items.length > 1 && !mixed && (
            <span className="flex items-center gap-2">
              <Button
                plain
                className="!py-0"
                onClick={() => {
                  if (!plays && (now === null || now >= copies)) setNow(0);
                  setPlays(!plays);
                }}
              >
                {plays ? "Halt" : "Play the order"}
              </Button>
              <input
                type="range"
                min={0}
                max={copies}
                value={now ?? 0}
                aria-label="Copies finished"
                onChange={(e) => {
                  setPlays(false);
                  setNow(Number(e.target.value));
                }}
                className="w-24 accent-moss"
              />
            </span>
          )}
        </div>
        <div className="relative min-h-0 flex-1">
          {plate && batch && mixed && (
            <>
              <PlateView
                bed={batch.bed}
                outline={plate.outline}
                middle={[plate.middle[0] ?? 0, plate.middle[1] ?? 0]}
                height={plate.height_mm}
                items={(mixed.items[0] ?? []).map(toItem)}
                guests={mixed.names.slice(1).map((_, i) => ({
                  outline: mixed.outlines[i + 1] ?? [],
                  middle: [mixed.middles[i + 1]?.[0] ?? 0, mixed.middles[i + 1]?.[1] ?? 0] as const,
                  items: (mixed.items[i + 1] ?? []).map(toItem),
                }))}
                mode="together"
                now={null}
                wrong={[]}
                label={`${part.name} with others on one plate`}
              />
              <MixedWords mixed={mixed} />
            </>
          )}
          {plate && batch && limit > 0 && !mixed && (
            <PlateView
              bed={batch.bed}
              outline={plate.outline}
              middle={[plate.middle[0] ?? 0, plate.middle[1] ?? 0]}
              height={plate.height_mm}
              items={items}
              mode={mode}
              now={now}
              lines={below === "prepared" ? (read?.result?.lines ?? []) : []}
              wrong={wrong}
              onMove={edits ? (n, to) => void move(n, to) : undefined}
              label={`${copies} copies of ${part.name} on the plate, ${MODE_WORDS[mode]}`}
            />
          )}
          {wrong[0] && (
            <p
              className="absolute top-2 left-3 bg-paper/90 px-2 font-semibold text-crown"
              role="status"
              data-testid="misplaced"
            >
              {wrong[0].words} It was put back.
            </p>
          )}
          {now !== null && mode === "sequential" && (
            <p className="absolute top-1 left-3 bg-paper/90 px-2 text-second" data-testid="playing">
              {now >= copies ? (
                "all finished"
              ) : (
                <>
                  printing <b className="figure">{now + 1}</b> of <span className="figure">{copies}</span>; the band and
                  the ring are where nothing finished may stand
                  {now + 1 === copies ? ", the last may be of any height" : ""}
                </>
              )}
            </p>
          )}
        </div>
        <div className="flex h-[326px] shrink-0 flex-col border-t-[1.4px] border-ink">
          <div className="flex items-baseline gap-4 px-3 pt-1">
            <Tabs label="Below the plate" tabs={BELOW} here={below} onPick={setBelow} className="shrink-0" />
            {below === "curve" && batch?.curves && (
              <p className="narrow ml-auto truncate text-second">
                <Line dash={false} /> together <Line dash /> in turn · hatched: may fall below 1 ·{" "}
                <span className="inline-block h-1 w-3 bg-ochre-mark" aria-hidden="true" /> ends unattended · ● best
              </p>
            )}
          </div>
          <div className="min-h-0 flex-1 px-2">
            {below === "ways" ? (
              <OtherWays part={part} point={shown} handHour={known.data?.hand_cost ?? 0} mayEdit={may} />
            ) : below === "prepared" ? (
              <Prepared
                key={read?.id}
                known={read}
                here={isRead}
                copies={copies}
                words={MODE_WORDS[mode]}
                onRead={edits ? readFile : null}
                onStop={onStop}
                onAccept={edits ? accept : null}
              />
            ) : batch?.curves && limit > 0 ? (
              <BatchCurve
                currency={currency}
                curves={batch.curves}
                mode={mode}
                copies={copies}
                best={batch.proposed?.mode === mode ? batch.proposed : null}
                unknown={batch.strength.words}
                onPick={(n) => pick({ copies: n })}
              />
            ) : (
              <p className="px-2 py-2 text-second">
                Reserve, good parts a day and cost of a part are drawn here against the copies on a plate.
              </p>
            )}
          </div>
        </div>
      </section>
    </div>
  );
}

/** What a plate with other parts comes to, for this one. */
function MixedWords({ mixed }: { mixed: NonNullable<BatchAnalysis["mixed"]> }) {
  const fails = mixed.low !== null && mixed.low < 1;
  return (
    <div className="absolute top-2 left-3 max-w-[160px] space-y-0.5 bg-paper/90 px-2 py-1" data-testid="mixed">
      {mixed.names.map((name, i) => {
        const [stand, wanted] = [mixed.items[i]?.length ?? 0, mixed.wanted[i] ?? 0];
        return (
          <p key={name} className={stand < wanted ? "font-semibold text-crown" : ""}>
            <b className="figure">{i === 0 ? "1…" : String.fromCharCode(65 + i)}</b> {name}:{" "}
            <span className="figure">{stand}</span>
            {stand < wanted && ` of ${wanted} stand`}
          </p>
        );
      })}
      <p>
        plate takes {longTime(mixed.print_s)}, weld <span className="figure">{figure(mixed.weld, 2)}</span>
      </p>
      {mixed.reserve !== null && (
        <p className={fails ? "font-semibold text-crown" : ""}>
          {fails ? "Fails: reserve" : "reserve"} <span className="figure">{figure(mixed.reserve, 2)}</span>, at worst{" "}
          <span className="figure">{figure(mixed.low, 2)}</span>
        </p>
      )}
    </div>
  );
}

function Line({ dash }: { dash: boolean }) {
  return (
    <svg width="20" height="6" className="inline-block align-middle" aria-hidden="true">
      <line
        x1="0"
        x2="20"
        y1="3"
        y2="3"
        stroke="var(--color-moss)"
        strokeWidth="2"
        strokeDasharray={dash ? "5 3" : undefined}
      />
    </svg>
  );
}

interface ProposalProps {
  words: string;
  best: { mode: Mode; copies: number; words: string } | null;
  here: { mode: Mode; copies: number };
  onBest: () => void;
}

/** The sentence of what is looked at, and the way to the best. */
function Proposal({ words, best, here, onBest }: ProposalProps) {
  const isBest = best?.mode === here.mode && best.copies === here.copies;
  return (
    <div className="border-b border-rule py-2" data-testid="batch-words">
      <p className={`text-[14px] leading-snug ${words.startsWith("Fails") ? "font-semibold text-crown" : ""}`}>
        {words || "…"}
      </p>
      {best && !isBest && (
        <p className="narrow text-second">
          Best: {best.words.split(/(?<=each\.) /)[0]}{" "}
          <button type="button" className="underline hover:text-ink" onClick={onBest}>
            look at it
          </button>
        </p>
      )}
      {isBest && (
        <p className="narrow text-second">
          The best that holds: most good parts a day, and of about as many the greatest reserve.
        </p>
      )}
    </div>
  );
}
