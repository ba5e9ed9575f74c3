/** Touching faces in one table: what comes out, what is to be drawn; drawn, proved, taken as a revision. */
import { useMemo, useState } from "react";

import type { Part } from "../../api/client";
import {
  type BoughtKind,
  type FitState,
  type Flexes,
  type Touch,
  fitApi,
  useFit,
  useFitView,
  useTried,
} from "../../api/fit";
import { useJobWriter, usePaint, useShape } from "../../api/queries";
import { useStage } from "../../api/stage";
import { newId } from "../../domain/needs";
import { BARK, CROWN } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { Specimen } from "../../scene/Specimen";
import { decodeShape, placedCorners } from "../../scene/shape";
import { ghostsOf } from "../../scene/tried";
import { Named } from "../../ui/Explained";
import { PointAt } from "../../ui/PointAt";
import { StageHeader } from "../../ui/StageHeader";
import { type Command, useCommands } from "../../ui/commands";
import { Button } from "../../ui/controls";
import { Taken, useArrival, useComing } from "../../ui/revision";
import { Adding } from "./Adding";
import { Drawn } from "./Drawn";
import { FeatureRow } from "./FeatureRow";
import { COLUMNS, FitRow, NAMED } from "./FitRow";
import { FlexRow } from "./FlexRow";
import { Mates } from "./Mates";
import { Scaled } from "./Scaled";
import { Seen } from "./Seen";
import { Stack } from "./Stack";
import { Standing } from "./Standing";
import { saidOf, usePointing } from "./pointing";
import { changed, counts, listsOf, wanted, without } from "./rows";

const samePlace = (a: readonly number[], b: readonly number[]) => a.every((v, i) => Math.abs(v - (b[i] ?? 0)) < 0.01);

const HERE = "/parts/$partId/fit";

export function Fit({ part }: { part: Part }) {
  const { may, calculate, send, trouble, onStop } = useStage(part, "fit");
  const { write, trouble: unwritten, setTrouble } = useJobWriter(part);
  const { coming, wait, openPart } = useComing(HERE);
  const known = useFit(part, coming !== null);
  const analysis = known.data?.analysis ?? null;
  const up: Vec3 = useMemo(
    () => toVec3(known.data?.up ?? part.choice?.up ?? [0, 0, 1]),
    [known.data?.up, part.choice?.up],
  );
  const touching = part.job.touching.rows.filter(counts);
  const regions = part.job.regions.rows;
  const rows = known.data?.rows ?? [];
  const [here, open] = useState<string | null>(null);
  const [turned, turn] = useState<readonly string[]>([]);
  const lists = listsOf(write);
  const { asking, ask, setting, pointAt, touch } = usePointing(part, write, send, open);

  const holds = analysis !== null && analysis.stale_because.length === 0;
  const plain = useShape(part.id, part.view).data;
  const after = useFitView(holds ? analysis : null).data;
  const [showing, show] = useState<"now" | "drawn">("drawn");
  const trying = part.job.features.rows.some((f) => f.id === here && !f.made);
  const drawnShown = !!after && showing === "drawn" && !asking && !trying;
  const theirs = useShape(setting?.other.part ?? "", setting?.mine ? setting.other.view : undefined).data;
  const data = setting?.mine ? theirs : drawnShown ? after : plain;
  const shape = useMemo(() => (data ? decodeShape(data) : null), [data]);
  const paint = usePaint(part).data;
  const tints = useMemo(
    () =>
      paint && !drawnShown && !setting?.mine ? { regions: paint, colours: regions.map((r) => r.colour) } : undefined,
    [paint, drawnShown, regions, setting?.mine],
  );
  const nameOf = (t: Touch) => regions.find((r) => r.id === t.on)?.name ?? "face is gone";

  const taken = known.data?.taken ?? null;
  useArrival(coming, analysis?.id, taken, HERE);

  const flexing = part.job.flexing.rows;
  const bends = known.data?.flexes ?? [];
  const features = part.job.features.rows;
  const made = known.data?.features ?? [];
  const kinds = known.data?.kinds ?? [];
  const seen = known.data?.seen ?? [];
  const standing = known.data?.standing ?? [];
  const hide = async (name: string, at: readonly number[], normal: readonly number[]) => {
    const id = newId();
    const row = { id, name: `texture of ${name}`, kind: "texture", at: [...at], normal: [...normal], end: null };
    if (await lists.features((now) => [...now, row])) open(id);
  };
  const stands = ({ facet, at, normal }: FitState["standing"][number]) => {
    if (facet !== null) return void touch(facet);
    const id = newId();
    const row = { id, name: `snap ${flexing.length + 1}`, at, normal };
    return void lists.flexing((now) => [...now, row]).then((done) => done && open(id));
  };
  const mates = part.job.mates.rows;
  const buy = async (kind: BoughtKind) => {
    const id = newId();
    const row = { id, name: kind.title, part: null, bought: { kind: kind.key }, pairs: [] };
    if (await lists.mates((now) => [...now, row])) open(id);
  };
  const beside = known.data?.beside ?? [];
  const toDraw = [...rows.filter((r) => r.changes), ...made.filter((r) => !r.why)].map((r) => r.id);
  const usual = [...touching.filter((t) => wanted(t)), ...features].map((t) => t.id);
  const picked = toDraw.filter((id) => usual.includes(id) !== turned.includes(id));
  const place =
    rows.find((r) => r.id === here)?.estimate?.centre_mm ??
    bends.find((b) => b.id === here)?.flex?.root_mm ??
    bends.find((b) => b.id === here)?.rim?.crest_mm ??
    features.find((f) => f.id === here)?.at ??
    null;
  const tried = useTried(
    part,
    features.find((f) => f.id === here),
    made.find((r) => r.id === here),
  ).data;
  const set = known.data?.mates.find((m) => m.id === here);
  const setPart = beside.find((b) => b.part === mates.find((m) => m.id === here)?.part);
  const setShape = useShape(setPart?.part ?? "", set?.matrix ? setPart?.view : undefined).data;
  const setCorners = useMemo(() => {
    if (set?.corners_mm) return new Float32Array(set.corners_mm);
    return set?.matrix && setShape ? placedCorners(decodeShape(setShape), set.matrix) : null;
  }, [set, setShape]);
  const setGhosts = useMemo(() => {
    if (!set || !setCorners) return [];
    const over = set.places_mm.map((p) => ({ corners: pointer(toVec3(p), 1.6), colour: CROWN }));
    return [{ corners: setCorners, colour: BARK }, ...over];
  }, [set, setCorners]);
  const ghosts = useMemo(
    () =>
      setting?.mine
        ? []
        : [
            ...setGhosts,
            ...(place ? [{ corners: pointer(toVec3(place), 1.6), colour: CROWN }] : []),
            ...(ghostsOf(tried) ?? []),
          ],
    [place, tried, setGhosts, setting?.mine],
  );
  useStepping([...touching, ...flexing, ...features, ...mates], here, open, () => {
    ask(null);
    open(null);
    setTrouble(null);
  });

  const cure = async (id: string, way: Flexes[number]["cure"]) => {
    if (await lists.flexing((now) => changed(now, id, { cure: way })))
      await calculate(() => fitApi.draw(part.id, [id]));
  };
  const take = async () => {
    if (analysis && (await send(() => fitApi.take(analysis.id)))) wait(analysis.id);
  };
  const drawIt =
    picked.length > 0 && !isOpen(analysis?.work) ? () => void calculate(() => fitApi.draw(part.id, picked)) : null;
  const done = holds && analysis.done && !isOpen(analysis.work);
  const wrong = rows.filter((r) => r.estimate && ["tight", "loose", "off"].includes(r.estimate.verdict)).length;
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[560px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Fit"
          aside={
            rows.length > 0 ? (
              <span data-testid="fit-count">
                <b className={`figure ${wrong ? "text-crown" : ""}`}>{wrong}</b> of{" "}
                <b className="figure">{rows.length}</b> come out wrong
              </span>
            ) : undefined
          }
          result={known.data?.analysis}
          complete
          verb="Draw them"
          onCalculate={may && picked.length > 0 ? () => calculate(() => fitApi.draw(part.id, picked)) : null}
          onStop={onStop}
          trouble={unwritten ?? trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so there is no solid to change."}
        />
        <div className="min-h-0 flex-1 overflow-y-auto pb-4" tabIndex={0} aria-label="Touching faces">
          {[touching, flexing, features, mates, seen].every((list) => list.length === 0) && (
            <p className="px-3.5 py-2 text-second">
              Nothing of this part meets another yet. Point at a bore, a pin or one wall of a slot: it gets a fit, and
              stands here with what comes out of it. Or choose what is to be made on a face: a snap, a thread, a clamp.
            </p>
          )}
          {touching.length > 0 && (
            <table className="w-full border-collapse" data-testid="fits">
              <thead>
                <tr className="narrow text-left text-second">
                  {COLUMNS.map((c, i) => (
                    <th
                      key={c}
                      className={`py-1 pr-2 font-normal ${i > 2 ? "text-right" : ""} ${i === 6 ? "pr-3" : ""}`}
                    >
                      <Named of={NAMED[c]}>{c}</Named>
                      {i > 2 && ", mm"}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {touching.map((t) => (
                  <FitRow
                    key={t.id}
                    touch={t}
                    name={nameOf(t)}
                    others={known.data?.others ?? []}
                    faces={regions.filter((r) => r.id !== t.on).map((r) => [r.id, r.name] as const)}
                    row={rows.find((r) => r.id === t.id)}
                    drawn={done ? analysis.rows.find((r) => r.id === t.id) : undefined}
                    here={t.id === here}
                    picked={picked.includes(t.id)}
                    onOpen={() => open(t.id === here ? null : t.id)}
                    onPick={(yes) =>
                      turn((now) => (yes === wanted(t) ? now.filter((id) => id !== t.id) : [...now, t.id]))
                    }
                    onChange={may ? (change) => void lists.touching((now) => changed(now, t.id, change)) : null}
                    onOut={may ? () => void lists.touching((now) => without(now, t.id)) : null}
                  />
                ))}
              </tbody>
            </table>
          )}
          {flexing.length > 0 && (
            <section className="border-t border-ink" aria-label="What bends">
              <h3 className="px-3 pt-1.5 pb-1 font-semibold">What bends</h3>
              <ul>
                {flexing.map((f) => (
                  <FlexRow
                    key={f.id}
                    bent={f}
                    row={bends.find((b) => b.id === f.id)}
                    drawn={done ? analysis.flexes.find((b) => b.id === f.id) : undefined}
                    here={f.id === here}
                    onOpen={() => open(f.id === here ? null : f.id)}
                    onChange={may ? (change) => void lists.flexing((now) => changed(now, f.id, change)) : null}
                    onCure={may ? (way) => void cure(f.id, way) : null}
                    onOut={may ? () => void lists.flexing((now) => without(now, f.id)) : null}
                  />
                ))}
              </ul>
            </section>
          )}
          {features.length > 0 && (
            <section className="border-t border-ink" aria-label="Features">
              <h3 className="px-3 pt-1.5 pb-1 font-semibold">Features</h3>
              <ul>
                {features.map((f) => (
                  <FeatureRow
                    key={f.id}
                    feature={f}
                    kind={kinds.find((k) => k.key === f.kind)}
                    row={made.find((r) => r.id === f.id)}
                    drawn={done ? analysis.features.find((r) => r.id === f.id) : undefined}
                    tried={f.id === here ? tried : undefined}
                    here={f.id === here}
                    picked={picked.includes(f.id)}
                    onOpen={() => open(f.id === here ? null : f.id)}
                    onPick={(yes) => turn((now) => (yes ? now.filter((id) => id !== f.id) : [...now, f.id]))}
                    onChange={
                      may && !f.made ? (change) => void lists.features((now) => changed(now, f.id, change)) : null
                    }
                    onOut={may ? () => void lists.features((now) => without(now, f.id)) : null}
                  />
                ))}
              </ul>
            </section>
          )}
          {standing.length > 0 && <Standing rows={standing} onSay={may ? stands : null} />}
          {seen.length > 0 && (
            <Seen
              rows={seen}
              onHide={(row) =>
                may && !features.some((f) => f.kind === "texture" && samePlace(f.at, row.at))
                  ? () => void hide(row.name, row.at, row.normal)
                  : null
              }
            />
          )}
          {mates.length > 0 && (
            <Mates
              mates={mates}
              told={known.data?.mates ?? []}
              kinds={known.data?.bought ?? []}
              warmth={{ cold: part.job.mates.cold?.typed ?? "", warm: part.job.mates.warm?.typed ?? "" }}
              here={here}
              onOpen={(id) => open(id === here ? null : id)}
              onPair={
                may
                  ? (mate) => {
                      const other = beside.find((b) => b.part === mate.part);
                      if (other) ask({ other, mate, mine: null });
                    }
                  : null
              }
              onOut={may ? (id) => void lists.mates((now) => without(now, id)) : null}
              onBought={may ? (id, bought) => void lists.mates((now) => changed(now, id, { bought })) : null}
              onFace={may ? (meeting, face) => ask({ meeting, face }) : null}
              onKeep={
                may
                  ? (mate, told) =>
                      void write((job) => ({
                        spaces: {
                          rows: [
                            ...job.spaces.rows,
                            { id: newId(), name: mate.name, kind: "body", part: mate.part, place: told.matrix },
                          ],
                        },
                      }))
                  : null
              }
              onWarmth={may ? (change) => void write((job) => ({ mates: { ...job.mates, ...change } })) : null}
            />
          )}
          {(touching.length > 0 || part.job.mates.stack.length > 0) && (
            <Stack
              mates={part.job.mates}
              told={known.data?.stack ?? null}
              own={touching.map((t) => [t.id, nameOf(t)] as const)}
              others={known.data?.others ?? []}
              onChange={may ? (change) => void write((job) => ({ mates: { ...job.mates, ...change } as never })) : null}
            />
          )}
          <div className="space-y-2 border-t border-ink px-3.5 pt-2">
            {may && (
              <Adding
                asking={asking}
                ask={ask}
                kinds={kinds}
                beside={beside}
                bought={known.data?.bought ?? []}
                onBuy={(kind) => void buy(kind)}
                draw={{ picked: picked.length, of: toDraw.length, onDraw: drawIt }}
              />
            )}
            {known.data && (
              <Scaled
                scaled={part.job.touching.scaled}
                state={known.data}
                onScale={may ? (scaled) => void write((job) => ({ touching: { ...job.touching, scaled } })) : null}
              />
            )}
            {done && <Drawn analysis={analysis} coming={coming !== null} onTake={may ? () => void take() : null} />}
            {taken && <Taken taken={taken} onOpen={openPart} />}
            <p className="narrow text-second">
              Clearances are per side and as printed. A screening estimate: try the first piece on its mate.
            </p>
          </div>
        </div>
      </section>
      <section className="relative min-h-0 min-w-0">
        {asking && <PointAt>{saidOf(asking)}</PointAt>}
        {after && !asking && !trying && (
          <div className="absolute top-2 right-3 z-10 flex gap-1" role="group" aria-label="What is shown">
            <Button plain={showing !== "now"} onClick={() => show("now")}>
              as it is
            </Button>
            <Button plain={showing !== "drawn"} onClick={() => show("drawn")}>
              as drawn
            </Button>
          </div>
        )}
        {shape && (
          <Specimen
            shape={shape}
            up={up}
            limit={null}
            layer={Number(part.process.numbers.layer ?? 0.2)}
            tints={tints}
            ghosts={ghosts}
            faces={asking ? { wide: false, onDesk: -1 } : undefined}
            onPick={asking ? (at) => void (shape && pointAt(at, shape)) : undefined}
            label={`${part.name} with its touching faces, standing with ${directionWords(up)}`}
          />
        )}
      </section>
    </div>
  );
}

/** Keys that go from row to row, and that leave what was being done. */
function useStepping(
  rows: readonly { id: string }[],
  here: string | null,
  open: (id: string | null) => void,
  onLeave: () => void,
) {
  const step = (by: number) => {
    const i = rows.findIndex((r) => r.id === here);
    open(rows[(i + by + rows.length) % Math.max(rows.length, 1)]?.id ?? null);
  };
  const commands: Command[] = [
    { name: "Next touching face", keys: "]", run: () => step(1) },
    { name: "Previous touching face", keys: "[", run: () => step(here ? -1 : 0) },
    { name: "Leave what was being pointed at", keys: "Escape", run: onLeave },
  ];
  useCommands(commands);
}
