/** What really hangs in the chosen direction: findings, the part cut at any layer, and the layer log. */
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useState } from "react";

import { type Finding, type Part, type Remedy, type RemedyLook, api } from "../../api/client";
import {
  useFindingFacets,
  useLayerLog,
  useOutlines,
  useOverhangs,
  useProposalView,
  useRefresh,
  useRemedies,
  useRemedyNames,
  useShape,
} from "../../api/queries";
import { useRecipe, useTaking } from "../../api/recipe";
import { useStage } from "../../api/stage";
import { measure } from "../../domain/figures";
import { KINDS } from "../../domain/layers";
import { stepAt } from "../../domain/recipe";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { Specimen } from "../../scene/Specimen";
import { decodeShape, facingOf } from "../../scene/shape";
import { ghostsOf } from "../../scene/tried";
import type { Place } from "../../scene/view";
import { Explained } from "../../ui/Explained";
import { StageHeader } from "../../ui/StageHeader";
import { StepOutcome } from "../../ui/StepOutcome";
import { useNumber, useRestingNumber, useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Either, Legend, Tabs, Trouble } from "../../ui/controls";
import { Findings, byVerdict } from "./Findings";
import { LayerDrawn } from "./LayerDrawn";
import { LimitLine } from "./LimitLine";
import { LogPanel } from "./LogPanel";
import { Remedies } from "./Remedies";
import { CHANGED, DYES, LEGENDS, extents, toneOf } from "./looks";

const TABS = [
  ["findings", "findings"],
  ["remedies", "remedies"],
] as const;

const KEYS = TABS.map(([key]) => key);

export function Overhangs({ part }: { part: Part }) {
  const known = useOverhangs(part);
  const client = useQueryClient();
  const navigate = useNavigate();
  const refresh = useRefresh();
  const { may, send, calculate, trouble, onStop } = useStage(part, "overhangs");
  const analysis = known.data?.analysis ?? null;
  const view = useShape(part.id, part.view);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const facets = useFindingFacets(analysis).data;
  const outlines = useOutlines(analysis).data;
  const [copies, setCopies] = useState(1);
  const log = useLayerLog(analysis, copies).data;
  const [at, setAt] = useRestingNumber("layer");
  const [picked, setPicked] = useNumber("finding");
  const [fly, setFly] = useState<Place | null>(null);
  const rows = useMemo(() => analysis?.rows ?? [], [analysis?.rows]);
  const here = rows.find((r) => r.number_on_part === picked) ?? null;
  const up: Vec3 = useMemo(() => toVec3(analysis?.up ?? known.data?.up ?? [0, 0, 1]), [analysis?.up, known.data?.up]);

  const recipe = useRecipe(part);
  const taking = useTaking((partId) => void navigate({ to: "/parts/$partId/overhangs", params: { partId } }));
  const named = useRemedyNames();
  const remedies = useRemedies(part);
  const proposal = remedies.data?.proposal ?? null;
  const complete = analysis?.complete ?? false;
  useEffect(() => {
    // What the layers show is a row among the revisions.
    if (complete) void client.invalidateQueries({ queryKey: ["remedies", part.id] });
  }, [complete, client, part.id]);
  const [tab, setTab] = useView("tab", KEYS);
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
    [changed, up, setAt],
  );

  const go = useCallback(
    (f: Finding) => {
      setPicked(picked === f.number_on_part ? null : f.number_on_part);
      setAt(null);
      if (!shape) return;
      const down: Vec3 = [-up[0], -up[1], -up[2]];
      const centre = toVec3(f.centre_mm);
      const face = facets && facingOf(shape, facets, f.number_on_part, centre);
      setFly({ point: face?.point ?? centre, normal: face?.normal ?? down, size: Math.sqrt(f.area_mm2) });
    },
    [shape, facets, up, picked, setPicked, setAt],
  );
  const settle = async (f: Finding, state: "accepted" | "not_applicable" | "open", reason: string) => {
    if (!analysis) return false;
    const result = await send(() => api.settleFindings(analysis.id, part.version, [f.number_on_part], state, reason));
    await refresh(part);
    return result !== undefined;
  };

  const commands = useMemo<Command[]>(() => {
    const order = [...byVerdict(rows).filter((r) => r.state === "open"), ...rows.filter((r) => r.state !== "open")];
    const step = (by: number) => {
      const next =
        order[(order.findIndex((r) => r.number_on_part === picked) + by + order.length) % Math.max(order.length, 1)];
      if (next && next.number_on_part !== picked) go(next);
    };
    return [
      { name: "Next finding", keys: "]", run: () => step(1) },
      { name: "Previous finding", keys: "[", run: () => step(-1) },
      { name: "Say why a finding can stay", keys: "w", run: () => document.getElementById("settle-reason")?.focus() },
      {
        name: "Layer log: look at layers with the arrow keys",
        keys: "y",
        run: () => document.querySelector<HTMLElement>("[data-testid=layer-log]")?.focus(),
      },
      { name: "Show the whole part again", keys: "Escape", run: () => setAt(null) },
      {
        name: "Findings, or remedies for them",
        keys: "e",
        run: () => setTab(tab === "findings" ? "remedies" : "findings"),
      },
      { name: "Before and after the remedies", keys: "x", run: () => setAfter((now) => !now) },
    ];
  }, [rows, picked, go, tab, setTab, setAt]);
  useCommands(commands);

  const tints = useMemo(
    () =>
      facets && {
        regions: facets,
        colours: rows.map((r) => toneOf(r) + (r.number_on_part === picked ? 3 : 0)),
        dyes: DYES,
      },
    [facets, rows, picked],
  );
  const made = useMemo(
    () =>
      changed && {
        regions: changed.features,
        colours: Array.from({ length: proposal?.applied.length ?? 0 }, (_, i) => (i === remedy ? 1 : 0)),
        dyes: CHANGED,
      },
    [changed, proposal?.applied.length, remedy],
  );
  const shownAt = at !== null && log ? Math.min(at, log.area_mm2.length - 1) : null;
  const cut = useMemo(
    () =>
      shownAt !== null && log && outlines
        ? { height: log.first_mm + shownAt * log.layer_mm, loops: outlines.layer(shownAt) }
        : null,
    [shownAt, log, outlines],
  );
  const reach = useMemo(() => (outlines ? Math.max(1, ...extents(outlines.count, outlines.layer)) : 1), [outlines]);

  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  const open = rows.filter((r) => r.state === "open").length;
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[minmax(330px,384px)_minmax(180px,1fr)_332px]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Overhangs"
          aside={
            complete && (
              <span className="figure">{open ? <b className="text-crown">{open} open</b> : "all settled"}</span>
            )
          }
          result={known.data?.analysis}
          complete={complete}
          verb="Check layers"
          onCalculate={may && known.data?.up ? () => calculate(() => api.checkLayers(part.id)) : null}
          onStop={onStop}
          trouble={trouble ?? recipe.trouble ?? taking.trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so its layers have no inside."}
        >
          <LimitLine part={part} known={known.data} adapted={!!remedies.data?.recipe} />
          {analysis?.truth && (
            <p className="narrow whitespace-nowrap text-second">
              <Explained of="overhang">overhang</Explained>{" "}
              <span className="figure text-ink">{measure(analysis.truth.overhang_area_mm2)} mm²</span> · all supported{" "}
              <span className="figure text-ink">{measure(analysis.truth.support_volume_mm3)} mm³</span> · first layer{" "}
              <span className="figure text-ink">{measure(analysis.truth.first_layer_mm2)} mm²</span>
            </p>
          )}
        </StageHeader>
        <Tabs tabs={TABS} here={tab} onPick={setTab} label="Findings and remedies" className="px-3.5 pt-1" />
        <div
          className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4"
          tabIndex={0}
          aria-label={tab === "findings" ? "Findings" : "Remedies"}
        >
          {tab === "remedies" ? (
            <Remedies part={part} known={remedies.data} may={may} here={remedy} onHere={look} onLook={setTrial} />
          ) : analysis?.truth ? (
            <Findings
              rows={rows}
              gone={analysis.gone}
              here={picked}
              onHere={go}
              onSettle={may && analysis.stale_because.length === 0 ? settle : null}
              onApply={
                recipe.add && analysis.stale_because.length === 0
                  ? (f, key) => void recipe.add?.(stepAt(key, f.kind, f.centre_mm))
                  : null
              }
              outcome={(f) => (
                <StepOutcome
                  recipe={recipe}
                  taking={taking}
                  place={{ kind: f.kind, centre_mm: [...f.centre_mm] }}
                  named={named}
                />
              )}
            />
          ) : known.data ? (
            <p className="py-3 text-second">
              {known.data.up === null
                ? "Waiting for the first candidate: no direction is known yet."
                : analysis
                  ? "Checking layers …"
                  : "The layers of this direction have not been checked yet."}
            </p>
          ) : null}
        </div>
      </section>
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="relative min-h-0 flex-1 overflow-hidden">
          {shape && (
            <Specimen
              shape={showsAfter ? changed : shape}
              up={up}
              limit={null}
              layer={analysis?.process.layer ?? 0.2}
              tints={(showsAfter ? made : ghosts && tab === "remedies" ? null : tints) ?? undefined}
              cut={showsAfter ? null : cut}
              ghosts={tab === "remedies" ? ghosts : undefined}
              fly={fly}
              label={`${part.name}${showsAfter ? " after the remedies" : ""}, standing with ${directionWords(up)}`}
            />
          )}
          <Legend rows={ghosts && tab === "remedies" ? LEGENDS.tried : showsAfter ? LEGENDS.after : LEGENDS.before} />
          {tab === "remedies" && changed && trial === null && (
            <Either
              label="Before or after the remedies"
              of={["before", "after"]}
              here={after ? "after" : "before"}
              onPick={(to) => setAfter(to === "after")}
              className="absolute top-3 right-3 max-[1180px]:top-auto max-[1180px]:bottom-14"
            />
          )}
          {here && tab === "findings" && (
            <p
              className="pointer-events-none absolute top-3 right-3 max-w-[260px] bg-paper/85 px-2 text-right"
              aria-live="polite"
            >
              <b className="figure">{here.number_on_part}</b> {KINDS[here.kind]}
            </p>
          )}
        </div>
        <div className="h-[186px] shrink-0 border-t-[1.4px] border-ink">
          {log && outlines && shownAt !== null ? (
            <LayerDrawn loops={outlines.layer(shownAt)} log={log} at={shownAt} reach={reach} />
          ) : (
            <p className="px-4 py-3 text-second">
              {log
                ? "Move over the layer log, or focus it and use the arrow keys: the layer is drawn here, and the part is cut at it."
                : known.data && "The layers are drawn here once they are checked."}
            </p>
          )}
        </div>
      </section>
      <LogPanel
        log={log}
        truth={analysis?.truth ?? null}
        rows={rows}
        picked={picked}
        onFinding={go}
        after={showsAfter ? (proposal?.log ?? null) : null}
        copies={copies}
        onCopies={setCopies}
        at={at}
        onAt={setAt}
      />
    </div>
  );
}
