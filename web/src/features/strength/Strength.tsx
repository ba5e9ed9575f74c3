/** Strength check: every load case in one direction, its field on the part, what each layer has to carry. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";

import { type Check, type Part, type Stand, type StandLog, type StandTold, api } from "../../api/client";
import { isOpen, useOutlines, useOverhangs, useRefresh, useSend, useSession, useShape, useStand, useStandLog, useStrength, useVolume } from "../../api/queries";
import { figure, measure } from "../../domain/figures";
import { BREAKS, wordsOf } from "../../domain/needs";
import { RAMP } from "../../domain/ramp";
import { mayEdit } from "../../domain/roles";
import { MODES, reserve } from "../../domain/strength";
import { type Vec3, directionWords, sameDirection, toVec3 } from "../../domain/vectors";
import { LayerLog } from "../../plots/LayerLog";
import { Specimen } from "../../scene/Specimen";
import { decodeShape, normalAt } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Heading, Progress, Tabs, Trouble } from "../../ui/controls";
import { Cases, Sum } from "./Cases";
import { Fixes, Held, Infill, Materials } from "./Panels";
import { ServiceLine } from "./ServiceLine";

const TABS = [
  ["sum", "calculation"],
  ["fixes", "fixes"],
  ["stock", "materials"],
  ["infill", "walls, infill"],
  ["held", "notes"],
] as const;
type Tab = (typeof TABS)[number][0];


export function Strength({ part }: { part: Part }) {
  const known = useStrength(part);
  const overhangs = useOverhangs(part).data;
  const may = mayEdit(useSession().data?.role);
  const client = useQueryClient();
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  const check = known.data?.check ?? null;
  const first = part.choice?.up ?? overhangs?.up ?? null;
  const [wanted, setWanted] = useState<readonly number[] | null>(null);
  const up = useMemo(() => toVec3(wanted ?? first ?? [0, 0, 1]), [wanted, first]);
  const brief = check?.stands.find((s) => sameDirection(s.up, up)) ?? null;
  // What is told of a direction changes with the job, and with every answer that comes of it.
  const version = `${check?.level ?? ""}-${brief?.reserve ?? ""}-${String(brief?.own_layers)}-${brief?.work?.state ?? ""}`;
  const stand = useStand(brief?.id, part.version, version).data ?? null;
  const told = stand?.told ?? null;
  const log = useStandLog(brief?.id, part.version, version, !!told).data;
  const fields = useVolume(brief?.id, stand?.volume).data;
  const view = useShape(part.id, part.view);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const walk = overhangs?.walk && sameDirection(overhangs.walk.up, up) ? overhangs.walk : null;
  const outlines = useOutlines(walk).data;
  const [picked, setPicked] = useState<number | null>(null);
  const [tab, setTab] = useState<Tab>("sum");
  const [at, setAt] = useState<number | null>(null);
  const [fly, setFly] = useState<Place | null>(null);
  const place = told ? Math.min(picked ?? told.worst ?? 0, told.cases.length - 1) : 0;
  const here = told?.cases[place] ?? null;
  const shown = at !== null && log ? Math.min(at, log.area_mm2.length - 1) : null;

  const keep = (answer: unknown) => {
    if (answer) void client.invalidateQueries({ queryKey: ["strength", part.id] });
  };
  const ups = useMemo(() => {
    const all = [up, ...(part.desk.pins ?? [])];
    return all.filter((u, i) => all.findIndex((v) => sameDirection(u, v)) === i).slice(0, 4);
  }, [up, part.desk.pins]);
  const order = async () => {
    const answer = await send(() => api.checkStrength(part.id, ups));
    if (answer) client.setQueryData(["strength", part.id, part.version], answer);
    await refresh(part);
  };
  const solve = async (again: boolean) => check && keep(await send(() => api.solveDirection(check.id, up, again)));

  const look = useCallback(() => {
    if (!here || here.reserve === null || !shape) return;
    const point = toVec3(here.at_mm);
    setFly({ point, normal: normalAt(shape, point), size: 6 });
  }, [here, shape]);
  const count = told?.cases.length ?? 0;
  const standId = stand?.id;
  const commands = useMemo<Command[]>(() => {
    const step = (by: number) => count && setPicked((place + by + count) % count);
    return [
      { name: "Next load case", keys: "]", run: () => step(1) },
      { name: "Previous load case", keys: "[", run: () => step(-1) },
      { name: "Look at the weakest place", keys: "w", run: look },
      { name: "Layer log: look at layers with the arrow keys", keys: "y", run: () => document.querySelector<HTMLElement>("[data-testid=layer-log]")?.focus() },
      { name: "Show the whole part again", keys: "Escape", run: () => setAt(null) },
      ...(standId ? [{ name: "Print the calculation", keys: "o", run: () => void window.open(api.reckoningAddress(standId), "_blank", "noopener") }] : []),
    ];
  }, [count, place, look, standId, setAt, setPicked]);
  useCommands(commands);

  const cut = useMemo(
    () => (shown !== null && log && outlines && shown < outlines.count ? { height: log.first_mm + shown * log.layer_mm, loops: outlines.layer(shown) } : null),
    [shown, log, outlines],
  );
  const drawn = fields?.[place];
  const field = useMemo(() => (drawn && here ? { field: drawn, kept: here.kept } : null), [drawn, here]);

  if (known.error) return <div className="p-5"><Trouble message={known.error.message} hint="Reload the page." /></div>;
  const stale = (check?.stale_because.length ?? 0) > 0;
  const unloaded = part.job.loads.cases.length === 0;
  return (
    <div className="grid h-full min-h-0 grid-cols-[400px_1fr_316px]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <div className="space-y-1.5 px-3.5 pt-3 pb-2">
          <Heading aside={may && !unloaded && (!check || stale || check.coarse || (!isOpen(check.work) && check.level !== "full")) ? <Button onClick={() => void order()}>{!check || check.coarse ? "Check in full" : "Check again"}</Button> : null}>Strength check</Heading>
          <Directions check={check} up={up} first={first} chosen={part.choice?.up ?? null} onUp={setWanted} />
          {known.data && <ServiceLine part={part} service={known.data.service} mayEdit={may} />}
          {check && isOpen(check.work) && <Progress doing={check.work.doing} done={check.work.done} total={check.work.total} onCancel={may ? () => void api.cancel(check.work.id) : undefined} />}
          {check?.work.problem && <Trouble message={check.work.problem.message} hint={check.work.problem.hint} />}
          {brief?.work && isOpen(brief.work) && !isOpen(check?.work) && <Progress doing={`own layers: ${brief.work.doing || "waiting"}`} done={brief.work.done} total={brief.work.total} onCancel={may ? () => void api.cancel(brief.work?.id ?? "") : undefined} />}
          {brief?.work?.problem && <Trouble message={brief.work.problem.message} hint={brief.work.problem.hint} />}
          {!part.facts.watertight && <Trouble message="The surface is open: it has no inside to carry a load." hint="Close it in the program that made it, and import it again." />}
          {stale && (
            <p className="border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
              Changed since it was checked: {check?.stale_because.join(", ")}.
            </p>
          )}
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
          {check && !brief && check.level !== "nothing" && (
            <p className="flex items-center gap-3 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
              <span className="flex-1">This direction has not been solved.</span>
              {may && !stale && <Button onClick={() => void solve(false)}>Solve it</Button>}
            </p>
          )}
          {told && check && <Verdict part={part} told={told} level={check.level} />}
          {unloaded && <p className="text-second">No load is written down yet. Say in the requirements what pushes and pulls at the part, and what holds it; then check it here.</p>}
          {!unloaded && !check && <p className="text-second">One solution of the stress answers every build direction: a first, coarse answer in seconds, then finer ones.</p>}
        </div>
        {told && check && (
          <div className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Load cases and their calculation">
            <Cases cases={told.cases} here={place} onHere={setPicked} />
            <Tabs tabs={TABS} here={tab} onPick={setTab} label="About this direction" className="mt-3 border-b border-rule" />
            {tab === "sum" && here && <Sum told={here} check={check} factor={known.data?.service.factor ?? 1} />}
            {tab === "fixes" && <Fixes told={told} mayEdit={may} onAgain={() => void solve(true)} />}
            {tab === "stock" && <Materials rows={told.stock} />}
            {tab === "infill" && stand && (
              <Infill
                stand={stand}
                told={told}
                mayEdit={may && !stale}
                now={{ perimeters: Number(part.process.numbers.perimeters), infill: Number(part.process.numbers.infill) }}
                onExplore={() => void send(() => api.exploreInfill(stand.id)).then(() => client.invalidateQueries({ queryKey: ["stand", stand.id] }))}
                onStop={(work) => void api.cancel(work)}
              />
            )}
            {tab === "held" && <Held told={told} />}
          </div>
        )}
      </section>
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="relative min-h-0 flex-1">
          {shape && (
            <Specimen
              shape={shape}
              up={up}
              limit={null}
              layer={log?.layer_mm ?? 0.2}
              field={field}
              named={here && here.reserve !== null ? here.z_mm : null}
              cut={cut}
              fly={fly}
              label={`${part.name}, standing with ${directionWords(up)}`}
              over={here && here.reserve !== null && !(cut && here.z_mm > cut.height) ? (picture, width, height) => <Spot {...picture.at(toVec3(here.at_mm))} width={width} height={height} /> : undefined}
            />
          )}
          <Legend field={!!field} waiting={!!told && !field} />
        </div>
        <div className="h-[150px] shrink-0 overflow-hidden border-t-[1.4px] border-ink">
          {log && shown !== null ? (
            <LayerTold log={log} at={shown} place={place} />
          ) : (
            <div className="flex h-full flex-col justify-between px-4 py-2.5">
              <p className="text-second">{log ? "Move over the layer log, or focus it and use the arrow keys: what the layer carries is told here, and the part is cut at it." : "What each layer carries is told here once the part is checked."}</p>
              {stand && told && <Outputs stand={stand} mayEdit={may} onOrder={() => void send(() => api.orderField(stand.id)).then(() => client.invalidateQueries({ queryKey: ["stand", stand.id] }))} onLook={look} />}
            </div>
          )}
        </div>
      </section>
      <section className="flex min-h-0 flex-col border-l border-ink pl-1">
        <div className="px-2 pt-3">
          <h2 className="text-[15px] font-bold">Layer log</h2>
          <p className="narrow leading-tight text-second">
            {here ? (
              <>
                demand of <b className="text-ink">{here.name}</b>, as pull across the layers that would use as much; dashed: by sections; the line: capacity{" "}
                <b className="figure text-ink">{figure(log?.cases[place]?.capacity_mpa, 1)} MPa</b>
              </>
            ) : (
              "demand and capacity of every layer"
            )}
          </p>
        </div>
        <div className="min-h-0 flex-1 pt-2 pb-2" onPointerLeave={() => setAt(null)}>
          {log && told && <Log log={log} told={told} place={place} at={shown} onAt={setAt} />}
        </div>
      </section>
    </div>
  );
}

function Log({ log, told, place, at, onAt }: { log: StandLog; told: StandTold; place: number; at: number | null; onAt: (layer: number) => void }) {
  const own = log.cases[place];
  const events = useMemo(() => {
    const weakest = told.cases.filter((c) => c.reserve !== null).map((c) => ({ low: c.z_mm, high: c.z_mm, words: `${c.name} ${reserve(c.reserve)}` }));
    return [...weakest, ...told.perforated.map((p) => ({ low: p.low_mm, high: p.high_mm, words: `${p.holes} holes` }))];
  }, [told]);
  if (!own) return null;
  const here = told.cases[place];
  return (
    <LayerLog
      layer={log.layer_mm}
      first={log.first_mm}
      count={log.area_mm2.length}
      height={log.area_mm2.length * log.layer_mm}
      tracks={[
        { name: "section", unit: "mm²", values: log.area_mm2, colour: "#b9ad86", wide: 62 },
        { name: "demand", unit: "MPa", values: own.demand_mpa, over: own.section_mpa, limit: own.capacity_mpa, colour: "var(--color-moss)", wide: 118 },
      ]}
      events={events}
      weakest={here && here.reserve !== null ? here.z_mm : null}
      at={at}
      onAt={onAt}
      label="Layer log of demand, from the plate upward"
      said={at === null ? "no layer" : `layer ${at + 1}, ${figure(log.first_mm + at * log.layer_mm, 1)} mm up, demand ${figure(own.demand_mpa[at], 2)} of ${figure(own.capacity_mpa, 2)} MPa`}
    />
  );
}

/** The answer in a sentence, and what was expected. */
function Verdict({ part, told, level }: { part: Part; told: StandTold; level: Check["level"] }) {
  const worst = told.worst === null ? null : told.cases[told.worst];
  if (!worst || worst.reserve === null) return <p className="text-[15px]">No load acts in this direction.</p>;
  const fails = worst.reserve < 1;
  const { doubtful } = worst;
  return (
    <div data-testid="verdict">
      <p className="text-[14.5px] leading-snug">
        <b className={fails ? "text-crown" : doubtful ? "text-ochre" : ""}>{fails ? "Fails." : doubtful ? "May fail." : "Holds."}</b> Weakest at <b className="figure">{figure(worst.z_mm, 1)} mm</b> above the plate: {MODES[worst.mode]} under <b>{worst.name}</b>; reserve{" "}
        <b className={`figure ${fails ? "text-crown" : ""}`}>{reserve(worst.reserve)}</b>{" "}
        {worst.low !== null && worst.high !== null && (
          <span className="figure text-second">
            ({reserve(worst.low)}…{reserve(worst.high)}{level === "coarse" && ", coarse"})
          </span>
        )}
      </p>
      {told.guesses.filter((g) => g.case === worst.name).map((g) => (
        <p key={g.case} className="narrow text-second" data-testid="guess">
          Under {g.case} you expected: {wordsOf(BREAKS, g.how)}
          {g.where && `, ${g.where}`}. Found: {g.way === null ? "not of the kind a check finds" : g.way ? "the same way" : "another way"}
          {g.place !== null && (
            <>
              , {g.place ? "the same place" : "elsewhere"} (<span className="figure">{figure(g.away_mm, 1)} mm</span> off)
            </>
          )}
          .
        </p>
      ))}
      {!told.own_layers && <p className="narrow text-second">{level === "coarse" ? "A first answer on coarse cubes: it misses peaks and moves as finer ones come." : "Read from the solution for all directions; its own layers, walls and infill come after it."}</p>}
      {part.cautions.length > 0 ? (
        <p className="narrow mt-1 border-l-4 border-crown pl-2" data-testid="caution">
          {part.cautions.slice(0, 2).join(" ")}
        </p>
      ) : (
        <p className="narrow text-second">A screening estimate: prove it by a trial printed as the batch will be.</p>
      )}
    </div>
  );
}

/** The directions of the check; the one on the desk in ink. */
function Directions({ check, up, first, chosen, onUp }: { check: Check | null; up: Vec3; first: readonly number[] | null; chosen: readonly number[] | null; onUp: (up: readonly number[]) => void }) {
  const stands = check?.stands ?? [];
  const all = first && !stands.some((s) => sameDirection(s.up, first)) ? [{ up: first, reserve: null, id: "first" }, ...stands] : stands;
  if (!first) return <p className="narrow text-second">No direction yet: the first candidate is being sliced.</p>;
  return (
    <div className="flex flex-wrap gap-1.5" role="radiogroup" aria-label="Direction looked at">
      {all.map((s) => {
        const here = sameDirection(s.up, up);
        return (
          <button key={s.id} type="button" role="radio" aria-checked={here} onClick={() => onUp(s.up)} className={`narrow border px-1.5 ${here ? "border-ink bg-ink text-raised" : "border-bark hover:bg-raised"}`}>
            {directionWords(toVec3(s.up))}
            {chosen ? sameDirection(s.up, chosen) && " · chosen" : sameDirection(s.up, first) && " · first candidate"}
            {s.reserve !== null && <b className="figure pl-1.5">{reserve(s.reserve)}</b>}
          </button>
        );
      })}
    </div>
  );
}

function LayerTold({ log, at, place }: { log: StandLog; at: number; place: number }) {
  const area = log.area_mm2[at];
  return (
    <div className="px-4 py-2" data-testid="layer-told">
      <p>
        layer <b className="figure text-[15px]">{at + 1}</b> <span className="text-second">of {log.area_mm2.length}</span>
        <b className="figure pl-3 text-[15px]">{figure(log.first_mm + at * log.layer_mm, 2)} mm</b> <span className="text-second">up · section</span> <span className="figure">{measure(area)} mm²</span>
      </p>
      <table className="narrow mt-1 w-full border-collapse">
        <thead>
          <tr className="text-right text-[11.5px] text-second">
            <th className="text-left font-normal">load case</th>
            <th className="font-normal">demand</th>
            <th className="font-normal">by section</th>
            <th className="font-normal">capacity</th>
            <th className="font-normal">reserve here</th>
          </tr>
        </thead>
        <tbody>
          {log.cases.slice(0, 4).map((c, i) => {
            const demand = c.demand_mpa[at] ?? 0;
            return (
              <tr key={c.id} className={`border-t border-rule text-right ${i === place ? "font-semibold" : ""}`}>
                <td className="text-left">{c.name}</td>
                <td className={`figure ${demand > c.capacity_mpa ? "text-crown" : ""}`}>{figure(demand, 2)} MPa</td>
                <td className="figure">{figure(c.section_mpa[at], 2)} MPa</td>
                <td className="figure">{figure(c.capacity_mpa, 2)} MPa</td>
                <td className="figure">{demand > 0 ? reserve(c.capacity_mpa / demand) : "–"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Outputs({ stand, mayEdit: may, onOrder, onLook }: { stand: Stand; mayEdit: boolean; onOrder: () => void; onLook: () => void }) {
  const busy = isOpen(stand.fielding ?? undefined);
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <Button plain onClick={onLook}>
        Look at the weakest place
      </Button>
      <a className="underline hover:text-second" href={api.reckoningAddress(stand.id)} target="_blank" rel="noopener">
        calculation on paper
      </a>
      {stand.field ? (
        <a className="underline hover:text-second" href={api.fieldAddress(stand.id)}>
          stress field, VTK
        </a>
      ) : busy ? (
        <span className="text-second">writing the stress field …</span>
      ) : (
        may && (
          <button type="button" className="underline hover:text-second" onClick={onOrder}>
            write the stress field for other viewers
          </button>
        )
      )}
    </div>
  );
}

/** Rings the weakest place. */
function Spot({ x, y, width, height }: { x: number; y: number; width: number; height: number }) {
  return (
    <svg className="pointer-events-none absolute inset-0" width={width} height={height} aria-hidden="true">
      <circle cx={width / 2 + x} cy={height / 2 + y} r="9" fill="none" stroke="#faf8ef" strokeWidth="4" />
      <circle cx={width / 2 + x} cy={height / 2 + y} r="9" fill="none" stroke="#b3261e" strokeWidth="1.8" />
    </svg>
  );
}

function Legend({ field, waiting }: { field: boolean; waiting: boolean }) {
  if (!field) return waiting ? <p className="pointer-events-none absolute top-3 left-3 bg-paper/85 pr-1 text-second">The field is drawn once this direction's own layers are solved.</p> : null;
  return (
    <div className="pointer-events-none absolute top-3 left-3 bg-paper/85 pr-1 text-[12px]" data-testid="field-legend">
      <p className="narrow text-second">share of the allowed strength that is used</p>
      <svg width="176" height="24" aria-hidden="true">
        <pattern id="over-limit" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="#d96b5c" />
          <path d="M0 0 V5" stroke="#b3261e" strokeWidth="5" />
        </pattern>
        {RAMP.map((c, i) => (
          <rect key={c} x={i * 18} width="18" height="10" fill={c} />
        ))}
        <rect x={126} width="24" height="10" fill="url(#over-limit)" />
        <rect x="0.5" y="0.5" width="149" height="9" fill="none" stroke="var(--color-ink)" />
        <text x="0" y="22" className="figure fill-ink text-[11px]">
          0
        </text>
        <text x="112" y="22" className="figure fill-ink text-[11px]">
          100 %
        </text>
        <text x="152" y="9" className="narrow fill-ink text-[11px]">
          fails
        </text>
      </svg>
    </div>
  );
}
