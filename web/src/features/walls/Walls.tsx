/** How thick the part is everywhere, what whole lines make of it, and which thickness would be better. */
import { useNavigate } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";

import { type Part, type RecipeStep, type WallZone, api } from "../../api/client";
import {
  useLayerLines,
  useOverhangs,
  useRefresh,
  useRemedyNames,
  useShape,
  useWalls,
  useWallsView,
} from "../../api/queries";
import { useRecipe, useTaking } from "../../api/recipe";
import { useStage } from "../../api/stage";
import { figure, measure } from "../../domain/figures";
import { CROWN } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { stepAt } from "../../domain/recipe";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { WALL_DYES, WALL_KINDS, WALL_NAMES, dyeOf, leftIn, wrongOnes, zonesBetween } from "../../domain/walls";
import { GaugeStrip } from "../../plots/GaugeStrip";
import { LayerSheet } from "../../plots/LayerSheet";
import { LayerTrack } from "../../plots/LayerTrack";
import { Specimen } from "../../scene/Specimen";
import { decodeShape, facingOf } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { Explained } from "../../ui/Explained";
import { StageHeader } from "../../ui/StageHeader";
import { StepOutcome } from "../../ui/StepOutcome";
import { useNumber, useRestingNumber, useView } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Legend, Tabs, Trouble } from "../../ui/controls";
import { Places } from "./Places";
import { WallSize } from "./WallSize";
import { Zone } from "./Zone";

const LEGEND = WALL_KINDS.map((kind, i) => [WALL_NAMES[kind], WALL_DYES[i] ?? WALL_DYES[0]] as const);
const LAYER_LEGEND = [
  ["outer line, and every other", "var(--color-moss)"],
  ["lines between", "var(--color-lichen)"],
  ["infill, or top layers", "var(--color-raised)"],
  ["slit", "var(--color-ochre-mark)"],
  ["no line fits", "var(--color-crown)"],
] as const;
type View = "part" | "layer";
const VIEWS: readonly (readonly [View, string])[] = [
  ["part", "the part"],
  ["layer", "a layer as drawn"],
];
const VIEW_KEYS = VIEWS.map(([key]) => key);
const SHOWN = 60;

/** The middle of a part's box: on no face, so that the mark's own is proposed. */
const middle = (part: Part): number[] => {
  const [low = [], high = []] = part.facts.bbox_mm;
  return low.map((v, i) => (v + (high[i] ?? v)) / 2);
};

export function Walls({ part }: { part: Part }) {
  const known = useWalls(part);
  const navigate = useNavigate();
  const { may, send, calculate, trouble, onStop } = useStage(part, "walls");
  const refresh = useRefresh();
  const analysis = known.data?.analysis ?? null;
  const zones = useMemo(() => analysis?.zones ?? [], [analysis?.zones]);
  const overhangs = useOverhangs(part).data;
  const up: Vec3 = useMemo(
    () => toVec3(overhangs?.up ?? part.choice?.up ?? [0, 0, 1]),
    [overhangs?.up, part.choice?.up],
  );
  const plain = useShape(part.id, part.view).data;
  const drawn = useWallsView(analysis).data;
  const shape = useMemo(() => (drawn ? decodeShape(drawn) : plain ? decodeShape(plain) : null), [drawn, plain]);
  const [picked, setPicked] = useNumber("wall");
  const [lit, setLit] = useState<readonly [number, number] | null>(null);
  const [fly, setFly] = useState<Place | null>(null);

  const recipe = useRecipe(part);
  const taking = useTaking((partId) => void navigate({ to: "/parts/$partId/walls", params: { partId } }));
  const named = useRemedyNames();
  const outcome = (kind: RecipeStep["kind"], centre: readonly number[]) => (
    <StepOutcome recipe={recipe} taking={taking} place={{ kind, centre_mm: [...centre] }} named={named} />
  );

  const fill = (perimeters: number, infill: number) =>
    void send(() => api.calculateStudy(part.id, part.version, { ...part.process.given, perimeters, infill })).then(() =>
      refresh(part),
    );

  const places = analysis?.places ?? [];
  const [placed, setPlaced] = useState<number | null>(null);
  const goTo = (number: number | null) => {
    setPlaced(number);
    setPicked(null);
    setLit(null);
    const place = number === null ? undefined : places[number];
    if (place)
      setFly({ point: toVec3(place.centre_mm), normal: up, size: place.kind === "body" ? 60 : 3 * place.size_mm });
  };
  const mark = placed === null ? undefined : places[placed];
  const ghosts = useMemo(
    () =>
      mark && mark.kind !== "body"
        ? [{ corners: pointer(toVec3(mark.centre_mm), Math.min(3, Math.max(0.6, mark.size_mm / 10))), colour: CROWN }]
        : undefined,
    [mark],
  );
  const layers = analysis?.layers ?? null;
  const [view, setView] = useView("view", VIEW_KEYS);
  const [at, setAt] = useRestingNumber("layer");
  const layer = Math.min(at ?? layers?.worst_layer ?? 0, Math.max(0, (layers?.slit_mm2.length ?? 1) - 1));
  const sheet = useLayerLines(analysis?.id, view === "layer" && layers ? layer : null).data;

  const go = useCallback(
    (number: number | null) => {
      setPicked(number);
      setPlaced(null);
      setLit(null);
      const zone = number === null ? undefined : zones[number];
      if (!zone || !shape || number === null) return;
      const centre = toVec3(zone.centre_mm);
      const face = facingOf(shape, shape.features, number + 1, centre);
      setFly({ point: face?.point ?? centre, normal: face?.normal ?? up, size: Math.sqrt(zone.area_mm2) });
    },
    [zones, shape, up, setPicked],
  );
  const light = useCallback(
    (range: [number, number] | null) => {
      setLit(range);
      setPicked(null);
      setPlaced(null);
    },
    [setPicked],
  );
  const glow = useMemo(
    () => new Set(lit ? zonesBetween(zones, lit[0], lit[1]) : picked === null ? [] : [picked]),
    [lit, picked, zones],
  );
  const tints = useMemo(
    () =>
      drawn && shape
        ? { regions: shape.features, colours: zones.map((z, i) => dyeOf(z.kind, glow.has(i))), dyes: WALL_DYES }
        : undefined,
    [drawn, shape, zones, glow],
  );
  const commands = useMemo<Command[]>(() => {
    const step = (by: number) =>
      zones.length > 0 && go(((picked ?? (by > 0 ? -1 : 0)) + by + zones.length) % zones.length);
    return [
      { name: "Next wall", keys: "]", run: () => step(1) },
      { name: "Previous wall", keys: "[", run: () => step(-1) },
      {
        name: "Gauge strip: light walls by thickness with the arrow keys",
        keys: "y",
        run: () => document.querySelector<HTMLElement>("[data-testid=gauge-strip]")?.focus(),
      },
      { name: "Light no wall", keys: "Escape", run: () => light(null) },
      {
        name: "The part, or a layer as it is drawn",
        keys: "n",
        run: () => setView(view === "part" ? "layer" : "part"),
      },
    ];
  }, [zones, picked, go, view, setView, light]);
  useCommands(commands);

  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  const edits = may && analysis?.stale_because.length === 0;
  const wrong = wrongOnes(zones).length;
  const shown = zones.slice(0, SHOWN); // the wrong ones come first
  const row = (z: WallZone, i: number) => {
    const set = edits ? recipe.add : null;
    const onWall = set && ((mm: number) => void set(stepAt("wall", "wall", z.centre_mm, { thickness_mm: mm })));
    const onRibs =
      set &&
      ((thick: number, high: number, pitch: number) =>
        void set(stepAt("ribs", "flat", z.centre_mm, { thickness_mm: thick, height_mm: high, pitch_mm: pitch })));
    const more = (
      <>
        {outcome("wall", z.centre_mm)}
        {outcome("flat", z.centre_mm)}
        <WallSize part={part} zone={z} onWall={onWall} onRibs={onRibs} />
      </>
    );
    return (
      <Zone
        key={i}
        zone={z}
        here={picked === i}
        glows={glow.has(i)}
        onPick={() => go(picked === i ? null : i)}
        onSet={onWall}
        more={more}
      />
    );
  };
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[384px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Walls"
          aside={analysis?.done && <Headline rows={analysis.headline} />}
          result={known.data?.analysis}
          complete={analysis?.done ?? false}
          verb="Measure walls"
          onCalculate={may ? () => calculate(() => api.measureWalls(part.id)) : null}
          onStop={onStop}
          trouble={trouble ?? recipe.trouble ?? taking.trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so its walls have no other side."}
        >
          {analysis?.done && (
            <p data-testid="thinnest">
              {analysis.min_thickness_mm === null ? (
                "No wall is found: the part is one thick section."
              ) : (
                <>
                  <Explained of="wall">thinnest</Explained>{" "}
                  <b className="figure">{figure(analysis.min_thickness_mm, 2)} mm</b>
                </>
              )}
              {analysis.lump_area_mm2 !== null && (
                <span className="narrow text-second">
                  {" "}
                  · {measure(analysis.lump_area_mm2)} mm² of surface over thick sections, no walls
                </span>
              )}
            </p>
          )}
          {analysis && <Lines process={analysis.process} />}
        </StageHeader>
        <div className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Walls">
          {analysis?.done ? (
            <>
              {wrong > 0 && <ul>{shown.slice(0, wrong).map(row)}</ul>}
              {places.length > 0 && (
                <>
                  <h2 className="narrow border-b border-ink pt-2.5 text-second">other findings</h2>
                  <Places
                    places={places}
                    picked={placed}
                    onPick={goTo}
                    onCure={edits && recipe.add ? (p) => void recipe.add?.(stepAt(p.key, p.kind, p.centre_mm)) : null}
                    outcome={(p) => outcome(p.kind, p.centre_mm)}
                    onFill={edits ? fill : null}
                  />
                </>
              )}
              {shown.length > wrong && (
                <h2 className="narrow border-b border-ink pt-2.5 text-second">walls that are filled</h2>
              )}
              <ul>
                {shown.slice(wrong).map((z, i) => row(z, i + wrong))}
                {zones.length + analysis.untold > SHOWN && (
                  <li className="py-2 text-second">and {zones.length + analysis.untold - SHOWN} smaller ones</li>
                )}
                {zones.length === 0 && (
                  <li className="py-3 text-second">
                    No wall is found: wherever a face lies opposite another, it is narrower than the part is thick
                    there.
                  </li>
                )}
              </ul>
              {edits && (
                <div className="border-t border-ink py-2" data-testid="mark">
                  <p className="flex items-baseline justify-between">
                    <span>
                      <b>Revision mark</b>{" "}
                      <span className="text-second">R{part.revision + 1}, on the smallest upright face with room</span>
                    </span>
                    <Button
                      plain
                      onClick={() =>
                        void recipe.add?.(stepAt("mark", "flat", middle(part), { revision_count: part.revision + 1 }))
                      }
                    >
                      Sink it in
                    </Button>
                  </p>
                  {outcome("flat", middle(part))}
                </div>
              )}
            </>
          ) : known.data ? (
            <p className="py-3 text-second">{analysis ? "Measuring …" : "The walls have not been measured yet."}</p>
          ) : null}
        </div>
      </section>
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="flex items-baseline gap-4 border-b border-rule px-3 pt-1.5">
          <Tabs label="What is drawn" tabs={VIEWS} here={view} onPick={setView} />
          {view === "layer" && layers && sheet && (
            <p className="ml-auto" data-testid="layer-words">
              layer <b className="figure">{layer + 1}</b> of <span className="figure">{layers.slit_mm2.length}</span>,{" "}
              <span className="figure">{figure((layer + 0.5) * layers.layer_mm, 2)} mm</span> up:{" "}
              <b className={sheet.bare_mm2 >= 0.05 ? "text-crown" : sheet.slit_mm2 >= 0.05 ? "text-ochre" : ""}>
                {leftIn(sheet.slit_mm2, sheet.bare_mm2)}
              </b>
            </p>
          )}
        </div>
        <div className="relative min-h-0 flex-1">
          {view === "part" && shape && (
            <Specimen
              shape={shape}
              up={up}
              limit={null}
              layer={Number(part.process.numbers.layer ?? 0.2)}
              tints={tints}
              ghosts={ghosts}
              fly={fly}
              label={`${part.name}, its walls by thickness, standing with ${directionWords(up)}`}
            />
          )}
          {view === "part" && <Legend rows={LEGEND} />}
          {view === "layer" && sheet && layers && (
            <>
              <LayerSheet
                sheet={sheet}
                label={`Layer ${layer + 1} of ${part.name} as it is drawn: ${leftIn(sheet.slit_mm2, sheet.bare_mm2)}`}
              />
              <Legend rows={LAYER_LEGEND} />
            </>
          )}
          {view === "layer" && !layers && (
            <p className="px-4 py-3 text-second">
              {analysis?.done && !analysis.up
                ? "How the part stands is not known yet: study its directions first."
                : "The layers are being drawn."}
            </p>
          )}
        </div>
        <div className="h-[206px] shrink-0 border-t-[1.4px] border-ink px-2 pt-1">
          {view === "layer" && layers ? (
            <LayerTrack
              layer={layers.layer_mm}
              slits={layers.slit_mm2}
              bare={layers.bare_mm2}
              at={layer}
              onPick={setAt}
            />
          ) : analysis?.histogram && analysis.comb ? (
            <GaugeStrip
              edges={analysis.histogram.edges_mm}
              areas={analysis.histogram.area_mm2}
              comb={analysis.comb}
              lit={lit}
              onLight={light}
              at={picked === null ? null : (zones[picked]?.thickness_mm ?? null)}
            />
          ) : (
            <p className="px-2 py-2 text-second">
              The thicknesses are drawn here against whole lines once they are measured.
            </p>
          )}
        </div>
      </section>
    </div>
  );
}

/** What the list below comes to. */
function Headline({ rows }: { rows: readonly { words: string; grave: boolean }[] }) {
  if (rows.length === 0) return <span>nothing to change</span>;
  return (
    <span className="narrow text-right" data-testid="walls-come-to">
      {rows.map((row, i) => (
        <span key={row.words}>
          {i > 0 && " · "}
          <b className={row.grave ? "text-crown" : "text-ochre"}>{row.words}</b>
        </span>
      ))}
    </span>
  );
}

const RULES: Readonly<Record<string, string>> = {
  spacing: "overlapping (spacing rule)",
  plain: "side by side (plain rule)",
  nozzle: "each as wide as the nozzle (nozzle rule)",
};

/** The lines that all of this rests on. */
function Lines({ process }: { process: Record<string, unknown> }) {
  const n = (name: string) => Number(process[name]);
  const mixed = n("inner_width") !== n("width");
  return (
    <p className="narrow text-second" data-testid="lines">
      lines of{" "}
      <span className="figure text-ink">
        {figure(n("width"), 2)}
        {mixed && ` outside, ${figure(n("inner_width"), 2)} inside`} mm
      </span>
      , layers of <span className="figure text-ink">{figure(n("layer"), 2)} mm</span>,{" "}
      {RULES[String(process.rule)] ?? RULES.spacing}
      {process.variable_lines ? ", of variable width" : ""}, {n("perimeters")} perimeters
    </p>
  );
}
