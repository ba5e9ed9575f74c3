/** Touching faces in one table: what comes out, what is to be drawn; drawn, proved, taken as a revision. */
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useMemo, useState } from "react";

import { type Part, api } from "../../api/client";
import {
  type FeatureKind,
  type Features,
  type Flexes,
  type Mate,
  type Touch,
  fitApi,
  useFit,
  useFitView,
  useTried,
} from "../../api/fit";
import { useJobWriter, usePaint, useShape } from "../../api/queries";
import { useStage } from "../../api/stage";
import { figure } from "../../domain/figures";
import { freeColour, newId } from "../../domain/needs";
import { BARK, CROWN } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { type Pointed, Specimen } from "../../scene/Specimen";
import { decodeShape, normalOf, placedCorners } from "../../scene/shape";
import { ghostsOf } from "../../scene/tried";
import { StageHeader } from "../../ui/StageHeader";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Select } from "../../ui/controls";
import { FeatureRow } from "./FeatureRow";
import { COLUMNS, FitRow } from "./FitRow";
import { FlexRow } from "./FlexRow";
import { type Beside, Mates } from "./Mates";
import { Seen } from "./Seen";

const samePlace = (a: readonly number[], b: readonly number[]) => a.every((v, i) => Math.abs(v - (b[i] ?? 0)) < 0.01);

/** What of a face has a size: a fit, a clearance of its own, or a function that asks for one. */
const SIZED = ["mating", "inside_corner", "sealing"];
const counts = (t: Touch) => t.fit !== null || t.gap !== null || SIZED.includes(t.duty);

/** What only mates, without a fit, is drawn when somebody asks for it. */
const wanted = (t: Touch) => t.fit !== null || t.gap !== null || t.duty === "inside_corner";

/** What is being pointed at: a touching face, an arm, where a feature is made, after its first place, or a pair of faces.
 */
type Asking = "face" | "arm" | { making: FeatureKind; first: Pointed | null } | Setting;

/** A pair of faces that meet, of this part first: of a mate that is there already, or of a part. */
interface Setting {
  other: Beside;
  mate: Mate | null;
  mine: { at: Vec3; normal: Vec3 } | null;
}

function saidOf(asking: Asking): string {
  if (asking === "face") return "Point at a bore, a pin, or one wall of a slot or tongue.";
  if (asking === "arm") return "Point at the broad face of what bends, on the side away from its catch.";
  if ("other" in asking)
    return asking.mine
      ? `Now at the face of “${asking.other.name}” that it meets.`
      : "Point at a face of this part that meets it.";
  const { making, first } = asking;
  return `Point at ${first && making.second ? making.second : making.point}.`;
}

export function Fit({ part }: { part: Part }) {
  const { may, calculate, send, trouble, onStop } = useStage(part, "fit");
  const { write, trouble: unwritten, setTrouble } = useJobWriter(part);
  const [coming, setComing] = useState<string | null>(null);
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
  const [asking, ask] = useState<Asking | null>(null);
  const [kind, choose] = useState("snap");
  const navigate = useNavigate();

  const asked = asking !== null && typeof asking === "object" && "other" in asking ? asking : null;

  const holds = analysis !== null && analysis.stale_because.length === 0;
  const plain = useShape(part.id, part.view).data;
  const after = useFitView(holds ? analysis : null).data;
  const [showing, show] = useState<"now" | "drawn">("drawn");
  const trying = part.job.features.rows.some((f) => f.id === here && !f.made);
  const drawnShown = !!after && showing === "drawn" && !asking && !trying;
  const theirs = useShape(asked?.other.part ?? "", asked?.mine ? asked.other.view : undefined).data;
  const data = asked?.mine ? theirs : drawnShown ? after : plain;
  const shape = useMemo(() => (data ? decodeShape(data) : null), [data]);
  const paint = usePaint(part).data;
  const tints = useMemo(
    () =>
      paint && !drawnShown && !asked?.mine ? { regions: paint, colours: regions.map((r) => r.colour) } : undefined,
    [paint, drawnShown, regions, asked?.mine],
  );
  const nameOf = (t: Touch) => regions.find((r) => r.id === t.on)?.name ?? "face is gone";

  const taken = known.data?.taken ?? null;
  useEffect(() => {
    if (coming && taken && analysis?.id === coming)
      void navigate({ to: "/parts/$partId/fit", params: { partId: taken } });
  }, [coming, taken, analysis?.id, navigate]);

  const put = (next: (now: Touch[]) => unknown[]) =>
    write((job) => ({ touching: { rows: next(job.touching.rows) as Touch[] } }));
  const flexing = part.job.flexing.rows;
  const bends = known.data?.flexes ?? [];
  const putFlex = (next: (now: Flexes) => unknown[]) =>
    write((job) => ({ flexing: { rows: next(job.flexing.rows) as Flexes } }));
  const features = part.job.features.rows;
  const made = known.data?.features ?? [];
  const kinds = known.data?.kinds ?? [];
  const putFeature = (next: (now: Features) => unknown[]) =>
    write((job) => ({ features: { rows: next(job.features.rows) as Features } }));
  const pickFeature = async (at: Pointed, making: FeatureKind, first: Pointed | null) => {
    if (making.second && !first) return ask({ making, first: at });
    ask(null);
    if (!shape) return;
    const [id, on] = [newId(), first ?? at];
    const count = features.filter((f) => f.kind === making.key).length + 1;
    const row = {
      id,
      name: `${making.title.toLowerCase()} ${count}`,
      kind: making.key,
      at: [...on.point],
      normal: [...normalOf(shape, on.facet)],
      end: first && [...at.point],
    };
    if (await putFeature((now) => [...now, row])) open(id);
  };
  const seen = known.data?.seen ?? [];
  const hide = async (name: string, at: readonly number[], normal: readonly number[]) => {
    const id = newId();
    const row = { id, name: `texture of ${name}`, kind: "texture", at: [...at], normal: [...normal], end: null };
    if (await putFeature((now) => [...now, row])) open(id);
  };
  const mates = part.job.mates.rows;
  const beside = known.data?.beside ?? [];
  const putMates = (next: (now: Mate[]) => unknown[]) =>
    write((job) => ({ mates: { ...job.mates, rows: next(job.mates.rows) as Mate[] } }));
  const pickPair = async (at: Pointed, { other, mate, mine }: Setting) => {
    if (!shape) return;
    const normal = normalOf(shape, at.facet);
    if (!mine) return ask({ other, mate, mine: { at: at.point, normal } });
    ask(null);
    const pair = { at: mine.at, normal: mine.normal, their_at: at.point, their_normal: normal };
    const id = mate?.id ?? newId();
    const added = (now: Mate[]) =>
      mate
        ? now.map((m) => (m.id === id ? { ...m, pairs: [...m.pairs, pair] } : m))
        : [...now, { id, name: other.name, part: other.part, pairs: [pair] }];
    if (await putMates(added)) open(id);
  };
  const pickArm = async (at: Pointed) => {
    ask(null);
    if (!shape) return;
    const id = newId();
    const normal = [...normalOf(shape, at.facet)];
    const row = { id, name: `arm ${flexing.length + 1}`, at: [...at.point], normal };
    if (await putFlex((now) => [...now, row])) open(id);
  };
  const pick = async (at: Pointed) => {
    ask(null);
    const face = await send(() => api.point(part.id, at.facet, false));
    if (!face) return;
    const [region, touch] = [newId(), newId()];
    const taken_ = (name: string) => regions.some((r) => r.name === name);
    let name = face.called;
    for (let n = 2; taken_(name); n++) name = `${face.called}, ${n}`;
    const row = { id: touch, on: region, duty: "mating", fit: "sliding" };
    const done = await write((job) => ({
      regions: {
        rows: [...job.regions.rows, { id: region, name, colour: freeColour(job.regions.rows), shape: face.shape }],
      },
      touching: { rows: [...job.touching.rows, row as Touch] },
    }));
    if (done) open(touch);
  };

  const pointAt = (at: Pointed) => {
    if (asking === "face") return pick(at);
    if (asking === "arm") return pickArm(at);
    if (!asking) return undefined;
    return "other" in asking ? pickPair(at, asking) : pickFeature(at, asking.making, asking.first);
  };

  const toDraw = [...rows.filter((r) => r.changes), ...made.filter((r) => !r.why)].map((r) => r.id);
  const usual = [...touching.filter((t) => wanted(t)), ...features].map((t) => t.id);
  const picked = toDraw.filter((id) => usual.includes(id) !== turned.includes(id));
  const place =
    rows.find((r) => r.id === here)?.estimate?.centre_mm ??
    bends.find((b) => b.id === here)?.flex?.root_mm ??
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
  const setGhosts = useMemo(() => {
    if (!set?.matrix || !setShape) return [];
    const over = set.places_mm.map((p) => ({ corners: pointer(toVec3(p), 1.6), colour: CROWN }));
    return [{ corners: placedCorners(setShape, set.matrix), colour: BARK }, ...over];
  }, [set, setShape]);
  const ghosts = useMemo(
    () =>
      asked?.mine
        ? []
        : [
            ...setGhosts,
            ...(place ? [{ corners: pointer(toVec3(place), 1.6), colour: CROWN }] : []),
            ...(ghostsOf(tried) ?? []),
          ],
    [place, tried, setGhosts, asked?.mine],
  );
  useStepping([...touching, ...flexing, ...features, ...mates], here, open, () => {
    ask(null);
    open(null);
    setTrouble(null);
  });

  const cure = async (id: string, way: Flexes[number]["cure"]) => {
    if (await putFlex((now) => now.map((r) => (r.id === id ? { ...r, cure: way } : r))))
      await calculate(() => fitApi.draw(part.id, [id]));
  };
  const take = async () => {
    if (analysis && (await send(() => fitApi.take(analysis.id)))) setComing(analysis.id);
  };
  const chosen = kinds.find((k) => k.key === kind);
  const asksFeature = asking !== null && typeof asking === "object" && "making" in asking;
  const done = holds && analysis.done && !isOpen(analysis.work);
  const wrong = rows.filter((r) => r.estimate && ["tight", "loose", "off"].includes(r.estimate.verdict)).length;
  return (
    <div className="grid h-full min-h-0 grid-cols-[560px_1fr]">
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
          result={analysis}
          complete
          verb="Draw them"
          onCalculate={may && picked.length > 0 ? () => calculate(() => fitApi.draw(part.id, picked)) : null}
          onStop={onStop}
          trouble={unwritten ?? trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so there is no solid to change."}
        />
        <div className="min-h-0 flex-1 overflow-y-auto pb-4" tabIndex={0} aria-label="Touching faces">
          {touching.length === 0 &&
            flexing.length === 0 &&
            features.length === 0 &&
            mates.length === 0 &&
            seen.length === 0 && (
              <p className="px-3.5 py-2 text-second">
                Nothing of this part meets another yet. Point at a bore, a pin or one wall of a slot: it gets a fit, and
                stands here with what comes out of it. Or choose what is to be made on a face: a snap, a thread, a
                clamp.
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
                      {c}
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
                    onChange={
                      may
                        ? (change) => void put((now) => now.map((r) => (r.id === t.id ? { ...r, ...change } : r)))
                        : null
                    }
                    onOut={may ? () => void put((now) => now.filter((r) => r.id !== t.id)) : null}
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
                    onChange={
                      may
                        ? (change) => void putFlex((now) => now.map((r) => (r.id === f.id ? { ...r, ...change } : r)))
                        : null
                    }
                    onCure={may ? (way) => void cure(f.id, way) : null}
                    onOut={may ? () => void putFlex((now) => now.filter((r) => r.id !== f.id)) : null}
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
                      may && !f.made
                        ? (change) =>
                            void putFeature((now) => now.map((r) => (r.id === f.id ? { ...r, ...change } : r)))
                        : null
                    }
                    onOut={may ? () => void putFeature((now) => now.filter((r) => r.id !== f.id)) : null}
                  />
                ))}
              </ul>
            </section>
          )}
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
              onOut={may ? (id) => void putMates((now) => now.filter((m) => m.id !== id)) : null}
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
          <div className="space-y-2 border-t border-ink px-3.5 pt-2">
            {may && beside.length > 0 && (
              <p className="flex items-center gap-2">
                <Select
                  label="Other part"
                  quiet
                  value={asked?.other.part ?? ""}
                  options={[["", "another part …"], ...beside.map((b) => [b.part, b.name] as const)]}
                  onPick={(id) => {
                    const other = beside.find((b) => b.part === id);
                    ask(other ? { other, mate: null, mine: null } : null);
                  }}
                  className="w-56"
                />
                <span className="text-second">{asked ? "point at a pair of faces" : "set against this one"}</span>
              </p>
            )}
            {may && kinds.length > 0 && (
              <p className="flex items-center gap-2">
                <Select
                  label="Feature"
                  quiet
                  value={kind}
                  options={kinds.map((k) => [k.key, k.title] as const)}
                  onPick={(key) => {
                    choose(key);
                    ask(null);
                  }}
                  className="w-56"
                />
                <Button plain onClick={() => ask(asksFeature || !chosen ? null : { making: chosen, first: null })}>
                  {asksFeature ? "Stop pointing" : "Make on a face"}
                </Button>
              </p>
            )}
            {may && (
              <p className="flex gap-2">
                <Button plain onClick={() => ask(asking === "face" ? null : "face")}>
                  {asking === "face" ? "Stop pointing" : "Point at a face"}
                </Button>
                <Button plain onClick={() => ask(asking === "arm" ? null : "arm")}>
                  {asking === "arm" ? "Stop pointing" : "Point at an arm"}
                </Button>
                {toDraw.length > 0 && (
                  <Button
                    disabled={picked.length === 0 || isOpen(analysis?.work)}
                    onClick={() => void calculate(() => fitApi.draw(part.id, picked))}
                  >
                    {`Draw ${picked.length} of ${toDraw.length}`}
                  </Button>
                )}
              </p>
            )}
            {done && <Drawn analysis={analysis} coming={coming !== null} onTake={may ? () => void take() : null} />}
            {taken && (
              <p>
                <button
                  type="button"
                  className="underline"
                  onClick={() => void navigate({ to: "/parts/$partId/fit", params: { partId: taken } })}
                >
                  Taken as a revision
                </button>
              </p>
            )}
            <p className="narrow text-second">
              Clearances are per side and as printed. A screening estimate: try the first piece on its mate.
            </p>
          </div>
        </div>
      </section>
      <section className="relative min-h-0 min-w-0">
        {asking && (
          <p className="absolute top-2 left-3 z-10 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
            {saidOf(asking)}
          </p>
        )}
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
            onPick={asking ? (at) => void pointAt(at) : undefined}
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

interface DrawnProps {
  analysis: NonNullable<ReturnType<typeof useFit>["data"]>["analysis"] & {};
  coming: boolean;
  onTake: (() => void) | null;
}

/** What became of the drawing: how many faces, what else has moved, and taking it. */
function Drawn({ analysis, coming, onTake }: DrawnProps) {
  const all = [...analysis.rows, ...analysis.flexes, ...analysis.features];
  const done = all.filter((r) => r.applied).length;
  const refused = all.filter((r) => r.refused).length;
  if (analysis.steps === 0 && refused === 0) return null;
  return (
    <div className="space-y-1" data-testid="take-fit">
      <p>
        <b className="figure">{done}</b> {done === 1 ? "is" : "are"} drawn anew
        {refused > 0 && <span className="text-crown">, {refused} cannot be</span>}. Anything else has moved by{" "}
        <span className="figure">{figure(analysis.stray_mm3, 2)} mm³</span>.
      </p>
      {analysis.inexact && <p className="narrow text-ochre">{analysis.inexact}</p>}
      {onTake && analysis.view && (
        <Button disabled={coming} onClick={onTake}>
          {coming ? "Making the revision …" : "Take as a revision"}
        </Button>
      )}
    </div>
  );
}
