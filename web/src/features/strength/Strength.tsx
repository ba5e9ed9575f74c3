/** Strength check: every load case in one direction, its field on the part, what each layer has to carry. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";

import { type Part, api } from "../../api/client";
import { useCurrency, useOutlines, useOverhangs, useRefresh, useShape } from "../../api/queries";
import { useStage } from "../../api/stage";
import { useDirectionAnalysis, useDirectionLog, useStrength, useVolume } from "../../api/strength";
import { figure } from "../../domain/figures";
import { directionWords, sameDirection, toVec3 } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { Specimen } from "../../scene/Specimen";
import { decodeShape, normalAt } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { StageHeader } from "../../ui/StageHeader";
import { useNumber, useRestingNumber, useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Progress, Tabs, Trouble } from "../../ui/controls";
import { BrokeBefore } from "./BrokeBefore";
import { Cases, Sum } from "./Cases";
import { FieldLegend, Spot } from "./Field";
import { DemandLog, LayerNumbers, Outputs } from "./Layers";
import { Fixes, Held, Infill, Materials } from "./Panels";
import { ServiceLine } from "./ServiceLine";
import { Directions, FirstWord, Verdict } from "./Verdict";

const TABS = [
  ["sum", "calculation"],
  ["fixes", "fixes"],
  ["stock", "materials"],
  ["infill", "walls, infill"],
  ["held", "notes"],
] as const;
const TAB_KEYS = TABS.map(([key]) => key);

export function Strength({ part }: { part: Part }) {
  const known = useStrength(part);
  const overhangs = useOverhangs(part).data;
  const client = useQueryClient();
  const refresh = useRefresh();
  const { may, send, calculate, trouble, onStop } = useStage(part, "strength");
  const check = known.data?.check ?? null;
  const first = part.choice?.up ?? overhangs?.up;
  const [wanted, setWanted] = useState<readonly number[] | null>(null);
  const up = useMemo(() => toVec3(wanted ?? first ?? [0, 0, 1]), [wanted, first]);
  const brief = check?.directions.find((s) => sameDirection(s.up, up)) ?? null;
  // What is told of a direction changes with the job, and with every answer that comes of it.
  const version = `${check?.level ?? ""}-${brief?.reserve ?? ""}-${String(brief?.own_layers)}-${brief?.work?.state ?? ""}`;
  const analysis = useDirectionAnalysis(brief?.id, part.version, version).data ?? null;
  const result = analysis?.result ?? null;
  const log = useDirectionLog(brief?.id, part.version, version, !!result).data;
  const fields = useVolume(brief?.id, analysis?.volume).data;
  const view = useShape(part.id, part.view);
  const shape = useMemo(() => (view.data ? decodeShape(view.data) : null), [view.data]);
  const walked = overhangs?.analysis && sameDirection(overhangs.analysis.up, up) ? overhangs.analysis : null;
  const outlines = useOutlines(walked).data;
  const [picked, setPicked] = useNumber("case");
  const currency = useCurrency();
  const [tab, setTab] = useView("tab", TAB_KEYS);
  const [at, setAt] = useRestingNumber("layer");
  const [fly, setFly] = useState<Place | null>(null);
  const place = result ? Math.min(picked ?? result.worst ?? 0, result.cases.length - 1) : 0;
  const here = result?.cases[place] ?? null;
  const shown = at !== null && log ? Math.min(at, log.area_mm2.length - 1) : null;

  const keep = (answer: unknown) => {
    if (answer) void client.invalidateQueries({ queryKey: ["strength", part.id] });
  };
  const ups = useMemo(() => {
    const all = [up, ...(part.desk.pins ?? [])];
    return all.filter((u, i) => all.findIndex((v) => sameDirection(u, v)) === i).slice(0, 4);
  }, [up, part.desk.pins]);
  const fully = async () => {
    await calculate(() => api.checkStrength(part.id, ups));
    await refresh(part);
  };
  const solve = async (again: boolean) => check && keep(await send(() => api.solveDirection(check.id, up, again)));

  const look = useCallback(() => {
    if (!here || here.reserve === null || !shape) return;
    const point = toVec3(here.at_mm);
    setFly({ point, normal: normalAt(shape, point), size: 6 });
  }, [here, shape]);
  const count = result?.cases.length ?? 0;
  const analysisId = analysis?.id;
  const commands = useMemo<Command[]>(() => {
    const step = (by: number) => count && setPicked((place + by + count) % count);
    return [
      { name: "Next load case", keys: "]", run: () => step(1) },
      { name: "Previous load case", keys: "[", run: () => step(-1) },
      { name: "Look at the weakest place", keys: "w", run: look },
      {
        name: "Layer log: look at layers with the arrow keys",
        keys: "y",
        run: () => document.querySelector<HTMLElement>("[data-testid=layer-log]")?.focus(),
      },
      { name: "Show the whole part again", keys: "Escape", run: () => setAt(null) },
      ...(analysisId
        ? [
            {
              name: "Print the calculation",
              keys: "o",
              run: () => void window.open(api.calculationAddress(analysisId), "_blank", "noopener"),
            },
          ]
        : []),
    ];
  }, [count, place, look, analysisId, setAt, setPicked]);
  useCommands(commands);

  const cut = useMemo(
    () =>
      shown !== null && log && outlines && shown < outlines.count
        ? { height: log.first_mm + shown * log.layer_mm, loops: outlines.layer(shown) }
        : null,
    [shown, log, outlines],
  );
  const drawn = fields?.[place];
  const field = useMemo(() => (drawn && here ? { field: drawn, kept: here.kept } : null), [drawn, here]);

  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  const stale = (check?.stale_because.length ?? 0) > 0;
  const unloaded = part.job.loads.cases.length === 0;
  const wanting =
    known.data &&
    may &&
    !unloaded &&
    !stale &&
    (!check || check.coarse || (!isOpen(check.work) && check.level !== "full"));
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[minmax(340px,400px)_minmax(190px,1fr)_316px]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Strength check"
          aside={wanting ? <Button onClick={() => void fully()}>Check in full</Button> : null}
          result={known.data?.check}
          complete // the button stands in one place, whatever comes in meanwhile
          verb="Check in full"
          onCalculate={may && !unloaded ? fully : null}
          onStop={onStop}
          trouble={trouble}
          open={part.facts.watertight ? undefined : "The surface is open: it has no inside to carry a load."}
        >
          <Directions check={check} up={up} first={first} chosen={part.choice?.up ?? null} onUp={setWanted} />
          {known.data && <ServiceLine part={part} service={known.data.service} mayEdit={may} />}
          {brief?.work && isOpen(brief.work) && !isOpen(check?.work) && (
            <Progress
              doing={`own layers: ${brief.work.doing || "waiting"}`}
              done={brief.work.done}
              total={brief.work.total}
              onCancel={onStop ? () => void onStop(brief.work?.id ?? "") : undefined}
            />
          )}
          {brief?.work?.problem && <Trouble message={brief.work.problem.message} hint={brief.work.problem.hint} />}
          {check && !brief && check.level !== "nothing" && (
            <FirstWord part={part} up={up} level={check.level}>
              {may && !stale && <Button onClick={() => void solve(false)}>Solve it</Button>}
            </FirstWord>
          )}
          {result && check && <Verdict part={part} result={result} level={check.level} />}
          {result && <BrokeBefore part={part} />}
          {!unloaded && !check && (
            <p className="text-second">
              One solution of the stress answers every build direction: a first, coarse answer in seconds, then finer
              ones.
            </p>
          )}
          {unloaded && (
            <p className="text-second">
              No load is written down yet. Say in the requirements what pushes and pulls at the part, and what holds it;
              then check it here.
            </p>
          )}
        </StageHeader>
        {result && check && (
          <div
            className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4"
            tabIndex={0}
            aria-label="Load cases and their calculation"
          >
            <Cases cases={result.cases} here={place} onHere={setPicked} />
            <Tabs
              tabs={TABS}
              here={tab}
              onPick={setTab}
              label="About this direction"
              className="mt-3 border-b border-rule"
            />
            {tab === "sum" && here && <Sum result={here} check={check} factor={known.data?.service.factor ?? 1} />}
            {tab === "fixes" && <Fixes result={result} mayEdit={may} onAgain={() => void solve(true)} />}
            {tab === "stock" && <Materials rows={result.stock} currency={currency} />}
            {tab === "infill" && analysis && (
              <Infill
                analysis={analysis}
                result={result}
                mayEdit={may && !stale}
                now={{
                  perimeters: Number(part.process.numbers.perimeters),
                  infill: Number(part.process.numbers.infill),
                }}
                onExplore={() =>
                  void send(() => api.exploreInfill(analysis.id)).then(() =>
                    client.invalidateQueries({ queryKey: ["stand", analysis.id] }),
                  )
                }
                onStop={(work) => void api.cancel(work)}
              />
            )}
            {tab === "held" && <Held result={result} />}
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
              over={
                here && here.reserve !== null && !(cut && here.z_mm > cut.height)
                  ? (picture, width, height) => (
                      <Spot {...picture.at(toVec3(here.at_mm))} width={width} height={height} />
                    )
                  : undefined
              }
            />
          )}
          <FieldLegend field={!!field} waiting={!!result && !field} />
        </div>
        <div className="h-[150px] shrink-0 overflow-hidden border-t-[1.4px] border-ink">
          {log && shown !== null ? (
            <LayerNumbers log={log} at={shown} place={place} />
          ) : (
            <div className="flex h-full flex-col justify-between px-4 py-2.5">
              <p className="text-second">
                {log
                  ? "Move over the layer log, or focus it and use the arrow keys: what the layer carries is shown here, and the part is cut at it."
                  : "What each layer carries is shown here once the part is checked."}
              </p>
              {analysis && result && (
                <Outputs
                  analysis={analysis}
                  mayEdit={may}
                  onOrder={() =>
                    void send(() => api.calculateField(analysis.id)).then(() =>
                      client.invalidateQueries({ queryKey: ["stand", analysis.id] }),
                    )
                  }
                  onLook={look}
                />
              )}
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
                demand of <b className="text-ink">{here.name}</b>, as pull across the layers that would use as much;
                dashed: by sections; the line: capacity{" "}
                <b className="figure text-ink">{figure(log?.cases[place]?.capacity_mpa, 1)} MPa</b>
              </>
            ) : (
              "demand and capacity of every layer"
            )}
          </p>
        </div>
        <div className="min-h-0 flex-1 pt-2 pb-2" onPointerLeave={() => setAt(null)}>
          {log && result && <DemandLog log={log} result={result} place={place} at={shown} onAt={setAt} />}
        </div>
      </section>
    </div>
  );
}
