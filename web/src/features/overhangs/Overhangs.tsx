/** What really hangs in the chosen direction: findings, the part cut at any layer, and the layer log. */
import { useCallback, useEffect, useMemo, useState } from "react";
import { useQueryClient } from "@tanstack/react-query";

import { type Finding, type Overhangs as Known, type Part, type Proposal, type Remedy, type RemedyLook, api } from "../../api/client";
import { isOpen, useFindingFacets, useLayerLog, useOrdered, useOutlines, useOverhangs, useProposalView, useRefresh, useRemedies, useSend, useSession, useShape } from "../../api/queries";
import { figure, hours, measure } from "../../domain/figures";
import { KINDS } from "../../domain/layers";
import { ORIGIN_MARK } from "../../domain/origins";
import { mayEdit } from "../../domain/roles";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { LayerLog, type Stretch } from "../../plots/LayerLog";
import { Specimen } from "../../scene/Specimen";
import { decodeCorners, decodeShape, facingOf } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Either, Heading, Legend, Progress, Tabs, Trouble } from "../../ui/controls";
import { Findings, byVerdict } from "./Findings";
import { LayerDrawn } from "./LayerDrawn";
import { Remedies } from "./Remedies";

/** Of the part: fails, doubtful, holds or settled; the same three, lit. */
const DYES = ["#b3261e", "#c98a1b", "#8fae95", "#e0382e", "#f0a81f", "#4f9a70"] as const;
const TONE = { fails: 0, doubtful: 1, holds: 2 } as const;

const TABS = [
  ["findings", "findings"],
  ["remedies", "remedies"],
] as const;

/** Of the changed part: what a remedy made, and the one that is looked at. */
const CHANGED = ["#6f9c85", "#1f6f6b"] as const;

/** What a remedy that is tried would add, and take away. */
const TRIED = ["#1f6f6b", "#22261f"] as const;

const LEGENDS = {
  before: [["fails", DYES[0]], ["doubtful", DYES[1]], ["holds or settled", DYES[2]]],
  after: [["made by a remedy", CHANGED[0]], ["the one looked at", CHANGED[1]]],
  tried: [["would be added", TRIED[0]], ["would be taken away", TRIED[1]]],
} as const;

const toneOf = (f: Finding): number => (f.state === "open" ? TONE[f.verdict] : TONE.holds);

export function Overhangs({ part }: { part: Part }) {
  const known = useOverhangs(part);
  const may = mayEdit(useSession().data?.role);
  const client = useQueryClient();
  const refresh = useRefresh();
  const { send, trouble } = useSend();
  const walk = known.data?.walk ?? null;
  const view = useShape(part.id, part.view);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const facets = useFindingFacets(walk).data;
  const outlines = useOutlines(walk).data;
  const [copies, setCopies] = useState(1);
  const log = useLayerLog(walk, copies).data;
  const [at, setAt] = useState<number | null>(null);
  const [picked, setPicked] = useState<number | null>(null);
  const [fly, setFly] = useState<Place | null>(null);
  const rows = useMemo(() => walk?.rows ?? [], [walk?.rows]);
  const here = rows.find((r) => r.number_on_part === picked) ?? null;
  const up: Vec3 = useMemo(() => toVec3(walk?.up ?? known.data?.up ?? [0, 0, 1]), [walk?.up, known.data?.up]);

  const remedies = useRemedies(part);
  const proposal = remedies.data?.proposal ?? null;
  const walked = walk?.told ?? false;
  useEffect(() => {
    // What the layers show is a row among the revisions.
    if (walked) void client.invalidateQueries({ queryKey: ["remedies", part.id] });
  }, [walked, client, part.id]);
  const [tab, setTab] = useState<(typeof TABS)[number][0]>(window.location.hash === "#remedies" ? "remedies" : "findings");
  const [after, setAfter] = useState(true);
  const [remedy, setRemedy] = useState<number | null>(null);
  const [trial, setTrial] = useState<RemedyLook | null>(null);
  const ghosts = useMemo(() => ghostsOf(trial), [trial]);
  const changedView = useProposalView(tab === "remedies" ? proposal : null);
  const changed = useMemo(() => (changedView.data ? decodeShape(changedView.data) : null), [changedView.data]);
  const showsAfter = tab === "remedies" && after && changed !== null && trial === null;
  const look = useCallback(
    (r: Remedy, number: number) => {
      setRemedy((now) => (now === number ? null : number));
      setAfter(true);
      setAt(null);
      const centre = toVec3(r.centre_mm);
      const made = changed && facingOf(changed, changed.features, number + 1, centre);
      setFly({ point: made?.point ?? centre, normal: made?.normal ?? [-up[0], -up[1], -up[2]], size: 12 });
    },
    [changed, up],
  );

  // A direction that nobody has walked yet is walked as soon as somebody who may looks at it.
  const missing = may && known.data !== undefined && known.data.up !== null && walk === null && part.facts.watertight;
  const order = useOrdered(missing ? JSON.stringify([part.id, known.data.up]) : null, async () => {
    const told = await send(() => api.walkLayers(part.id));
    if (told) client.setQueryData(["overhangs", part.id, part.version, part.study], told);
  });

  const go = useCallback(
    (f: Finding) => {
      setPicked((now) => (now === f.number_on_part ? null : f.number_on_part));
      setAt(null);
      if (!shape) return;
      const down: Vec3 = [-up[0], -up[1], -up[2]];
      const centre = toVec3(f.centre_mm);
      const face = facets && facingOf(shape, facets, f.number_on_part, centre);
      setFly({ point: face?.point ?? centre, normal: face?.normal ?? down, size: Math.sqrt(f.area_mm2) });
    },
    [shape, facets, up],
  );
  const settle = async (f: Finding, state: "accepted" | "not_applicable" | "open", reason: string) => {
    if (!walk) return false;
    const told = await send(() => api.settleFindings(walk.id, part.version, [f.number_on_part], state, reason));
    await refresh(part);
    return told !== undefined;
  };

  const commands = useMemo<Command[]>(() => {
    const order = [...byVerdict(rows).filter((r) => r.state === "open"), ...rows.filter((r) => r.state !== "open")];
    const step = (by: number) => {
      const next = order[(order.findIndex((r) => r.number_on_part === picked) + by + order.length) % Math.max(order.length, 1)];
      if (next && next.number_on_part !== picked) go(next);
    };
    return [
      { name: "Next finding", keys: "]", run: () => step(1) },
      { name: "Previous finding", keys: "[", run: () => step(-1) },
      { name: "Say why a finding can stay", keys: "w", run: () => document.getElementById("settle-reason")?.focus() },
      { name: "Layer log: look at layers with the arrow keys", keys: "y", run: () => document.querySelector<HTMLElement>("[data-testid=layer-log]")?.focus() },
      { name: "Show the whole part again", keys: "Escape", run: () => setAt(null) },
      { name: "Findings, or remedies for them", keys: "e", run: () => setTab((t) => (t === "findings" ? "remedies" : "findings")) },
      { name: "Before and after the remedies", keys: "x", run: () => setAfter((now) => !now) },
    ];
  }, [rows, picked, go]);
  useCommands(commands);

  const tints = useMemo(
    () => facets && { regions: facets, colours: rows.map((r) => toneOf(r) + (r.number_on_part === picked ? 3 : 0)), dyes: DYES },
    [facets, rows, picked],
  );
  const made = useMemo(
    () => changed && { regions: changed.features, colours: Array.from({ length: proposal?.applied.length ?? 0 }, (_, i) => (i === remedy ? 1 : 0)), dyes: CHANGED },
    [changed, proposal?.applied.length, remedy],
  );
  const shownAt = at !== null && log ? Math.min(at, log.area_mm2.length - 1) : null;
  const cut = useMemo(
    () => (shownAt !== null && log && outlines ? { height: log.first_mm + shownAt * log.layer_mm, loops: outlines.layer(shownAt) } : null),
    [shownAt, log, outlines],
  );
  const reach = useMemo(() => (outlines ? Math.max(1, ...extents(outlines.count, outlines.layer)) : 1), [outlines]);

  if (known.error) return <div className="p-5"><Trouble message={known.error.message} hint="Reload the page." /></div>;
  const open = rows.filter((r) => r.state === "open").length;
  return (
    <div className="grid h-full min-h-0 grid-cols-[384px_1fr_332px]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <div className="border-b border-rule px-3.5 pt-3 pb-2">
          <Heading aside={walk?.told && <span className="figure">{open ? <b className="text-crown">{open} open</b> : "all settled"}</span>}>Overhangs</Heading>
          <LimitLine part={part} known={known.data} adapted={!!remedies.data?.recipe} />
          {walk?.truth && (
            <p className="narrow whitespace-nowrap text-second">
              overhang <span className="figure text-ink">{measure(walk.truth.overhang_area_mm2)} mm²</span> · all supported{" "}
              <span className="figure text-ink">{measure(walk.truth.support_volume_mm3)} mm³</span> · first layer{" "}
              <span className="figure text-ink">{measure(walk.truth.first_layer_mm2)} mm²</span>
            </p>
          )}
          {walk && isOpen(walk.work) && <Progress doing={walk.work.doing} done={walk.work.done} total={walk.work.total} onCancel={may ? () => void api.cancel(walk.work.id) : undefined} />}
          {walk?.work.problem && <Trouble message={walk.work.problem.message} hint={walk.work.problem.hint} />}
          {!part.facts.watertight && <Trouble message="The surface is open, so its layers have no inside." hint="Close it in the program that made it, and import it again." />}
          {walk && walk.stale_because.length > 0 && (
            <div className="mt-1 flex items-center gap-3 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
              <span className="flex-1">Changed since: {walk.stale_because.join(", ")}.</span>
              {may && <Button onClick={order}>Check again</Button>}
            </div>
          )}
          {walk && !walk.told && !isOpen(walk.work) && may && <Button onClick={order}>Check layers</Button>}
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
        </div>
        <Tabs tabs={TABS} here={tab} onPick={setTab} label="Findings and remedies" className="px-3.5 pt-1" />
        <div className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label={tab === "findings" ? "Findings" : "Remedies"}>
          {tab === "remedies" ? (
            <Remedies part={part} known={remedies.data} may={may} here={remedy} onHere={look} onLook={setTrial} />
          ) : walk?.truth ? (
            <Findings rows={rows} gone={walk.gone} here={picked} onHere={go} onSettle={may && walk.stale_because.length === 0 ? settle : null} />
          ) : (
            <p className="py-3 text-second">{known.data?.up === null ? "Waiting for the first candidate: no direction is known yet." : walk ? "Checking layers …" : "The layers of this direction have not been checked yet."}</p>
          )}
        </div>
      </section>
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="relative min-h-0 flex-1">
          {shape && (
            <Specimen
              shape={showsAfter ? changed : shape}
              up={up}
              limit={null}
              layer={walk?.process.layer ?? 0.2}
              tints={(showsAfter ? made : ghosts && tab === "remedies" ? null : tints) ?? undefined}
              cut={showsAfter ? null : cut}
              ghosts={tab === "remedies" ? ghosts : undefined}
              fly={fly}
              label={`${part.name}${showsAfter ? " after the remedies" : ""}, standing with ${directionWords(up)}`}
            />
          )}
          <Legend rows={ghosts && tab === "remedies" ? LEGENDS.tried : showsAfter ? LEGENDS.after : LEGENDS.before} />
          {tab === "remedies" && changed && trial === null && (
            <Either label="Before or after the remedies" of={["before", "after"]} here={after ? "after" : "before"} onPick={(to) => setAfter(to === "after")} className="absolute top-3 right-3" />
          )}
          {here && tab === "findings" && (
            <p className="pointer-events-none absolute top-3 right-3 max-w-[260px] bg-paper/85 px-2 text-right" aria-live="polite">
              <b className="figure">{here.number_on_part}</b> {KINDS[here.kind]}
            </p>
          )}
        </div>
        <div className="h-[186px] shrink-0 border-t-[1.4px] border-ink">
          {log && outlines && shownAt !== null ? (
            <LayerDrawn loops={outlines.layer(shownAt)} log={log} at={shownAt} reach={reach} />
          ) : (
            <p className="px-4 py-3 text-second">{log ? "Move over the layer log, or focus it and use the arrow keys: the layer is drawn here, and the part is cut at it." : "The layers are drawn here once they are checked."}</p>
          )}
        </div>
      </section>
      <section className="flex min-h-0 flex-col border-l border-ink pl-1">
        <div className="flex items-baseline gap-2 px-2 pt-3">
          <h2 className="text-[15px] font-bold">Layer log</h2>
          <label className="ml-auto text-second">
            copies{" "}
            <input
              type="number"
              min={1}
              max={1000}
              value={copies}
              onChange={(e) => setCopies(Math.max(1, Math.min(1000, Math.round(Number(e.target.value)) || 1)))}
              className="figure w-14 border border-bark bg-paper px-1 text-right text-ink"
            />
          </label>
        </div>
        <p className="px-2 text-second" data-testid="log-total">
          {log ? (
            <>
              <b className="figure text-ink">{hours(log.total_s)}</b> h:mm{log.copies > 1 && ` for ${log.copies} together; one alone ${hours(log.total_one_s)}`} · {log.area_mm2.length} layers of {figure(log.layer_mm, 2)} mm
            </>
          ) : (
            "time and sections of every layer"
          )}
        </p>
        <div className="min-h-0 flex-1 pt-2 pb-2" onPointerLeave={() => setAt(null)}>
          {showsAfter && proposal?.log && <LayersAfter log={proposal.log} before={log?.area_mm2} at={at} onAt={setAt} />}
          {!(showsAfter && proposal?.log) && log && walk?.truth && (
            <LayerLog
              layer={log.layer_mm}
              first={log.first_mm}
              count={log.area_mm2.length}
              height={walk.truth.height_mm}
              tracks={[
                { name: "section", unit: "mm²", values: log.area_mm2, colour: "#b9ad86" },
                { name: "layer time", unit: "s", values: log.seconds_one, over: log.copies > 1 ? log.seconds : undefined, colour: "var(--color-lichen)" },
              ]}
              stretches={rows.filter((r) => r.unit === "mm").map((r) => stretchOf(r, picked))}
              events={log.events.map((e) => ({ low: e.z_mm, high: e.kind === "cooling" ? e.to_mm : e.z_mm, words: e.words }))}
              at={shownAt}
              onAt={setAt}
              onStretch={(key) => {
                const found = rows.find((r) => String(r.number_on_part) === key);
                if (found) go(found);
              }}
              label="Layer log, from the plate upward"
              said={shownAt === null ? "no layer" : `layer ${shownAt + 1}, ${figure(log.first_mm + shownAt * log.layer_mm, 1)} mm up, ${measure(log.area_mm2[shownAt])} mm², ${figure(log.seconds_one[shownAt], 1)} s`}
            />
          )}
        </div>
      </section>
    </div>
  );
}

/** The layers of the part as the remedies leave it; dashed, the sections of before. */
function LayersAfter({ log, before, at, onAt }: { log: NonNullable<Proposal["log"]>; before: readonly number[] | undefined; at: number | null; onAt: (at: number | null) => void }) {
  const count = log.area_mm2.length;
  const shown = at === null ? null : Math.min(at, count - 1);
  return (
    <LayerLog
      layer={log.layer_mm}
      first={log.first_mm}
      count={count}
      height={log.first_mm + (count - 0.5) * log.layer_mm}
      tracks={[
        { name: "section", unit: "mm²", values: log.area_mm2, over: before, colour: "#b9ad86" },
        { name: "layer time", unit: "s", values: log.seconds, colour: "var(--color-lichen)" },
      ]}
      stretches={log.hangs.flatMap((r, i) => (r.mm === null ? [] : [{ key: String(i), low: r.z_mm, high: r.top_mm, mm: r.mm, colour: DYES[r.needs_support ? 0 : 2], words: `${KINDS[r.kind]}${r.needs_support ? ", needs support" : ", holds by itself"}`, lit: false }]))}
      events={[]}
      at={shown}
      onAt={onAt}
      label="Layer log after the remedies, from the plate upward"
      said={shown === null ? "no layer" : `layer ${shown + 1}, ${figure(log.first_mm + shown * log.layer_mm, 1)} mm up, ${measure(log.area_mm2[shown])} mm², ${figure(log.seconds[shown], 1)} s`}
    />
  );
}

const stretchOf = (r: Finding, picked: number | null): Stretch => ({
  key: String(r.number_on_part),
  low: r.z_mm,
  high: r.top_mm,
  mm: r.number,
  colour: DYES[toneOf(r)] ?? DYES[2],
  words: `${r.number_on_part}: ${r.sentence}`,
  lit: r.number_on_part === picked,
});

function* extents(count: number, layer: (k: number) => Float32Array[]): Generator<number> {
  for (let k = 0; k < count; k++) for (const loop of layer(k)) yield loop.reduce((a, v) => Math.max(a, Math.abs(v)), 0);
}

/** The limit that all of this rests on, its convention, and where it comes from. */
function LimitLine({ part, known, adapted }: { part: Part; known: Known | undefined; adapted: boolean }) {
  const { numbers, origins } = part.process;
  const n = (name: string) => Number(numbers[name]);
  const from = (name: string) => {
    const mark = ORIGIN_MARK[origins[name]?.origin ?? "handbook"];
    return <span title={mark.long}>{mark.sign}</span>;
  };
  return (
    <div className="narrow whitespace-nowrap text-second" data-testid="limit-line">
      <p>
        {known?.up ? <b className="text-ink">{directionWords(toVec3(known.up))}</b> : "no direction yet"}
        {known?.up && !known.chosen && ` · ${adapted ? "what it was adapted for" : "the first candidate"}, none chosen yet`}
      </p>
      <p>
        limit <span className="figure text-ink">{figure(n("limit"), 0)}°</span> from the vertical {from("limit")} · bridges clean to <span className="figure text-ink">{figure(n("clean_bridge"), 0)}</span>, rough to{" "}
        <span className="figure text-ink">{figure(n("rough_bridge"), 0)} mm</span> {from("rough_bridge")}
      </p>
    </div>
  );
}

/** What a remedy that is tried would add and take away, as bodies to be drawn. */
function ghostsOf(look: RemedyLook | null): { corners: Float32Array; colour: string }[] | undefined {
  if (!look || look.why) return undefined;
  return [
    { corners: decodeCorners(look.adds), colour: TRIED[0] },
    { corners: decodeCorners(look.takes), colour: TRIED[1] },
  ].filter((g) => g.corners.length > 0);
}
