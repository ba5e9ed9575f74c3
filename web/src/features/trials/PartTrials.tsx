/** Trials of a part: what was printed, how it broke, beside what was predicted; what each change moved. */
import { Link } from "@tanstack/react-router";
import { useMemo, useState } from "react";

import type { Part } from "../../api/client";
import { useShape, useSend, useSession } from "../../api/queries";
import { type TrialIn, type TrialOfPart, trialsApi, usePartTrials, useTrialsRefresh } from "../../api/trials";
import { figure } from "../../domain/figures";
import { CROWN, OCHRE } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { mayPrint } from "../../domain/roles";
import { MODES } from "../../domain/strength";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { Specimen } from "../../scene/Specimen";
import { decodeShape } from "../../scene/shape";
import { PointAt } from "../../ui/PointAt";
import { type Command, useCommands } from "../../ui/commands";
import { Heading, Trouble } from "../../ui/controls";
import { NewTrial } from "./NewTrial";
import { TrialRow } from "./TrialRow";
import { amount } from "./words";

export function PartTrials({ part }: { part: Part }) {
  const known = usePartTrials(part);
  const session = useSession();
  const { send, busy, trouble, setTrouble } = useSend();
  const refresh = useTrialsRefresh();
  const may = mayPrint(session.data?.role);
  const [here, open] = useState<string | null>(null);
  const [asking, ask] = useState(false);
  const [broke, setBroke] = useState<Vec3 | null>(null);
  const view = useShape(part.id, part.view).data;
  const shape = useMemo(() => (view ? decodeShape(view) : null), [view]);
  const state = known.data;
  const trials = useMemo(() => [...(state?.trials ?? [])].reverse(), [state?.trials]);
  const looked = trials.find((t) => t.id === here) ?? null;
  const up: Vec3 = useMemo(
    () => toVec3(looked?.up ?? state?.up ?? part.choice?.up ?? [0, 0, 1]),
    [looked?.up, state?.up, part.choice?.up],
  );
  const ghosts = useMemo(() => {
    const spot = (place: readonly number[] | null | undefined, colour: string) =>
      place ? [{ corners: pointer(toVec3(place), 1.6), colour }] : [];
    if (broke) return spot(broke, CROWN);
    return looked ? [...spot(looked.at, CROWN), ...spot(looked.predicted?.at, OCHRE)] : [];
  }, [broke, looked]);
  const write = async (given: TrialIn) => {
    const done = await send(() => trialsApi.write(part.id, given));
    if (!done) return false;
    setBroke(null);
    await refresh();
    open(done.trials.at(-1)?.id ?? null);
    return true;
  };
  const change = async (call: () => Promise<unknown>) => {
    const done = await send(call);
    await refresh();
    return done !== undefined;
  };
  const commands: Command[] = [
    { name: "Point at the break", keys: "x", run: () => may && ask(true) },
    { name: "Leave what was being pointed at", keys: "Escape", run: () => ask(false) },
  ];
  useCommands(commands);
  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  if (!state) return <p className="p-5 text-second">Reading the trials …</p>;
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[560px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col overflow-y-auto border-r border-ink" aria-label="Trials">
        <header className="flex items-baseline gap-3 px-4 pt-3 pb-1.5">
          <Heading>Trials</Heading>
          <span className="narrow text-second">
            {trials.length === 0 ? "none yet" : <span className="figure">{trials.length}</span>}
          </span>
          <Link to="/trials" className="narrow ml-auto underline hover:text-moss">
            all trials of the workshop
          </Link>
        </header>
        {trouble && (
          <div className="px-4">
            <Trouble message={trouble.message} hint={trouble.hint} />
          </div>
        )}
        {trials.length === 0 && (
          <p className="px-4 pb-2 text-second">
            Break one and write it down: what it bore stands here beside what was predicted, and the next job learns
            from it.
          </p>
        )}
        <ul>
          {trials.map((t) => (
            <TrialRow
              key={t.id}
              trial={t}
              others={trials.filter((o) => o.id !== t.id)}
              here={t.id === here}
              onOpen={() => {
                setBroke(null);
                setTrouble(null);
                open(t.id === here ? null : t.id);
              }}
              onPhoto={may ? (photo) => void change(() => trialsApi.photo(t.id, photo)) : null}
              onStrike={
                session.data?.role === "engineer" ? (reason) => change(() => trialsApi.strike(t.id, reason)) : null
              }
            />
          ))}
        </ul>
        {state.revisions.length > 1 && <Revisions rows={state.revisions} />}
        {state.alike.length > 0 && <Alike rows={state.alike} />}
        {may && (
          <NewTrial
            key={trials.length}
            state={state}
            broke={broke}
            asking={asking}
            busy={busy}
            onAsk={() => ask(!asking)}
            onWrite={write}
          />
        )}
        <p className="narrow px-4 py-2 text-second">
          Break parts behind a shield and with glasses on. A test of one copy says nothing of the batch: print it the
          way the batch will be.
        </p>
      </section>
      <section className="relative min-h-0 min-w-0">
        {asking && <PointAt>Point at the place where it broke.</PointAt>}
        {looked?.predicted && (
          <p className="absolute top-2 right-3 z-10 bg-paper px-2 narrow" data-testid="beside">
            <span className="text-crown">▲</span> broke{looked.layer !== null && ` at layer ${looked.layer}`}{" "}
            <span className="text-ochre">▲</span> predicted: {MODES[looked.predicted.mode]} at{" "}
            <span className="figure">{figure(looked.predicted.z, 1)} mm</span>
          </p>
        )}
        {shape && (
          <Specimen
            shape={shape}
            up={up}
            limit={null}
            layer={Number(part.process.numbers.layer ?? 0.2)}
            ghosts={ghosts}
            faces={asking ? { wide: false, onDesk: -1 } : undefined}
            onPick={
              asking
                ? (place) => {
                    setBroke(place.point);
                    ask(false);
                  }
                : undefined
            }
            label={`${part.name} as it was tried, standing with ${directionWords(up)}`}
          />
        )}
      </section>
    </div>
  );
}

/** Which change of geometry moved what it bore: the revisions as a tree, each under what it was made from. */
function Revisions({ rows }: { rows: readonly PartTrialsRevision[] }) {
  const depth = (id: string | null): number => {
    const row = rows.find((r) => r.part === id);
    return row ? 1 + depth(row.before) : 0;
  };
  return (
    <section className="border-t border-ink px-4 py-2" aria-label="Revisions" data-testid="revisions">
      <h3 className="pb-0.5 font-semibold">Revisions</h3>
      <ul>
        {rows.map((r) => {
          const before = rows.find((o) => o.part === r.before);
          const moved = r.bore && before?.bore ? r.bore / before.bore - 1 : null;
          return (
            <li key={r.part} className="flex items-baseline gap-2 border-t border-rule py-0.5">
              <span style={{ paddingLeft: `${(depth(r.part) - 1) * 14}px` }}>
                {before && "└ "}revision <span className="figure">{r.revision}</span>
              </span>
              <span className="narrow text-second">
                {r.steps > 0 && (
                  <>
                    <span className="figure">{r.steps}</span> {r.steps === 1 ? "step" : "steps"}
                  </>
                )}
              </span>
              <span className="ml-auto">
                {r.bore === null ? (
                  <span className="text-second">not tried</span>
                ) : (
                  <>
                    bore <b className="figure">×{figure(r.bore, 2)}</b> its load
                  </>
                )}
              </span>
              <span className={`figure w-16 text-right ${moved !== null && moved < 0 ? "text-crown" : ""}`}>
                {moved === null ? "" : `${moved < 0 ? "−" : "+"}${figure(Math.abs(100 * moved), 0)} %`}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

type PartTrialsRevision = NonNullable<ReturnType<typeof usePartTrials>["data"]>["revisions"][number];

/** Lessons of other parts that broke the way this one is predicted to. */
function Alike({ rows }: { rows: readonly Omit<TrialOfPart, "changed">[] }) {
  return (
    <section className="border-t border-ink px-4 py-2" aria-label="Broke alike" data-testid="alike">
      <h3 className="pb-0.5 font-semibold">
        {rows.length === 1 ? "Another part broke like this" : `${rows.length} other parts broke like this`}
      </h3>
      <ul>
        {rows.map((t) => (
          <li key={t.id} className="border-t border-rule py-1">
            <Link to="/parts/$partId/trials" params={{ partId: t.part }} className="underline hover:text-moss">
              {t.part_name}
            </Link>{" "}
            <span className="narrow text-second">
              {t.how}
              {t.load && ` at ${amount(t.load.n, t.load.unit)}`}, {t.material}, {t.tested}
            </span>
            <span className="block">{t.lesson}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
