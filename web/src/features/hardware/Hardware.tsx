/** Steel in the part: placed by pointing, cut and proved, counted in the reserve, taken as a revision. */
import { useMemo, useState } from "react";

import type { Part } from "../../api/client";
import {
  type BoltsThatHold,
  type HardwareAnalysis,
  type HardwareRow,
  hardwareApi,
  useHardware,
  useHardwareView,
} from "../../api/hardware";
import { useJobWriter, useOverhangs, useShape } from "../../api/queries";
import { useStage } from "../../api/stage";
import { figure } from "../../domain/figures";
import { FIRST_SIZE, KINDS, type Kind, axisInto, kindWords, torqueWords } from "../../domain/hardware";
import { newId } from "../../domain/needs";
import { BARK, CROWN, SECOND_INK } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { reserve } from "../../domain/strength";
import { type Vec3, directionWords, dot, scaled, toVec3 } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { type Pointed, Specimen } from "../../scene/Specimen";
import { decodeShape, normalOf } from "../../scene/shape";
import { PointAt } from "../../ui/PointAt";
import { StageHeader } from "../../ui/StageHeader";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Select } from "../../ui/controls";
import { Taken, useArrival, useComing } from "../../ui/revision";
import { Answers } from "./Answers";
import { Meets } from "./Meets";
import { RowFields } from "./RowFields";

/** What the next press on the part is for. */
type Asking = { kind: "place"; what: Kind } | { kind: "end"; row: string };

const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const plus = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];

const HERE = "/parts/$partId/hardware";

export function Hardware({ part }: { part: Part }) {
  const { may, calculate, send, trouble, onStop } = useStage(part, "hardware");
  const { write, trouble: unwritten, setTrouble } = useJobWriter(part);
  const { coming, wait, openPart } = useComing(HERE);
  const known = useHardware(part, coming !== null);
  const analysis = known.data?.analysis ?? null;
  const overhangs = useOverhangs(part).data;
  const up: Vec3 = useMemo(
    () => toVec3(analysis?.up ?? overhangs?.up ?? part.choice?.up ?? [0, 0, 1]),
    [analysis?.up, overhangs?.up, part.choice?.up],
  );
  const rows = part.job.hardware.rows;
  const [picked, setPicked] = useState<string | null>(null);
  const [asking, ask] = useState<Asking | null>(null);
  const [kind, setKind] = useState<Kind>("bolt");

  const plain = useShape(part.id, part.view).data;
  const holds = analysis !== null && analysis.stale_because.length === 0;
  const cutView = useHardwareView(holds ? analysis : null, "view").data;
  const steelView = useHardwareView(holds ? analysis : null, "steel").data;
  const drawn = asking ? plain : (cutView ?? plain);
  const shape = useMemo(() => (drawn ? decodeShape(drawn) : null), [drawn]);
  const steel = useMemo(() => {
    if (!steelView || asking) return null;
    return new Float32Array(decodeShape(steelView).geometry.getAttribute("position").array);
  }, [steelView, asking]);

  const taken = known.data?.taken ?? null;
  useArrival(coming, analysis?.id, taken, HERE);

  const change = (id: string, with_: Partial<Record<keyof HardwareRow, unknown>>) =>
    void write((job) => ({
      hardware: { ...job.hardware, rows: job.hardware.rows.map((r) => (r.id === id ? { ...r, ...with_ } : r)) },
    }));
  const add = async (what: Kind, at: Vec3, axis: Vec3, end: Vec3 | null) => {
    const id = newId();
    const count = rows.filter((r) => r.kind === what).length + 1;
    const fresh = { id, kind: what, name: `${kindWords(what).split(",")[0] ?? what} ${count}`, size: FIRST_SIZE[what] };
    const placed = { at: [...at], axis: [...axis], end: end && [...end], deep: what === "rod" ? "40 mm" : null };
    if (
      await write((job) => ({ hardware: { ...job.hardware, rows: [...job.hardware.rows, { ...fresh, ...placed }] } }))
    )
      setPicked(id);
  };
  const pick = (at: Pointed) => {
    if (!shape || !asking) return;
    if (asking.kind === "end") {
      change(asking.row, { end: [...at.point] });
      ask(null);
      return;
    }
    const normal = normalOf(shape, at.facet);
    const bore = part.facts.bores?.[(shape.features[at.facet] ?? 0) - 1];
    ask(null);
    if (bore) {
      const axis = toVec3(bore.axis);
      const along = scaled(axis, dot(axis, up) > 0 ? -1 : 1);
      void add(asking.what, minus(toVec3(bore.centre_mm), scaled(along, bore.depth_mm / 2)), along, null);
      return;
    }
    const axis = axisInto(normal, up);
    const beside: Vec3 = Math.abs(dot(up, normal)) > 0.9 ? [1, 0, 0] : up;
    const end = asking.what === "key" ? plus(at.point, scaled(beside, 20)) : null;
    void add(asking.what, at.point, axis, end);
  };

  const ghosts = useMemo(() => {
    const out = [];
    if (steel) out.push({ corners: steel, colour: SECOND_INK, both: true });
    for (const row of rows)
      if (!steel || row.id === picked)
        out.push({
          corners: pointer(toVec3(row.at), row.id === picked ? 2 : 1.2),
          colour: row.id === picked ? CROWN : BARK,
        });
    return out;
  }, [steel, rows, picked]);

  const commands = useMemo<Command[]>(() => {
    const step = (by: number) => {
      const i = rows.findIndex((r) => r.id === picked);
      setPicked(rows[(i + by + rows.length) % Math.max(rows.length, 1)]?.id ?? null);
    };
    return [
      { name: "Next piece of hardware", keys: "]", run: () => step(1) },
      { name: "Previous piece of hardware", keys: "[", run: () => step(rows.some((r) => r.id === picked) ? -1 : 0) },
      { name: "Point at a place for hardware", keys: "a", run: () => ask({ kind: "place", what: kind }) },
      {
        name: "Leave what was being pointed at",
        keys: "Escape",
        run: () => {
          ask(null);
          setPicked(null);
          setTrouble(null);
        },
      },
    ];
  }, [rows, picked, kind, setTrouble]);
  useCommands(commands);

  /** The bolts that hold by themselves, with their size and torque; the others go. */
  const fit = (found: BoltsThatHold) =>
    void write((job) => ({
      hardware: {
        ...job.hardware,
        rows: job.hardware.rows
          .filter((r) => r.kind !== "bolt" || found.ids.includes(r.id))
          .map((r) => (r.kind === "bolt" ? { ...r, size: found.size, torque: `${found.torque_nmm / 1000} N·m` } : r)),
      },
    }));

  const take = async () => {
    if (analysis && (await send(() => hardwareApi.take(analysis.id)))) wait(analysis.id);
  };
  const done = holds && analysis.done && !isOpen(analysis.work);
  const fitting = done && analysis.rows.every((r) => r.where !== null);
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[400px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-ink">
        <StageHeader
          title="Hardware"
          aside={done ? <Least analysis={analysis} /> : undefined}
          result={known.data?.analysis}
          complete={analysis?.done ?? false}
          verb="Work out hardware"
          onCalculate={may && rows.length > 0 ? () => calculate(() => hardwareApi.calculate(part.id)) : null}
          onStop={onStop}
          trouble={unwritten ?? trouble}
          open={part.facts.watertight ? undefined : "The surface is open, so there is no solid to put steel in."}
        />
        <div className="min-h-0 flex-1 overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Hardware">
          {rows.length === 0 && (
            <p className="py-2 text-second">
              Bolts that clamp the layers, rods, inserts, keys: where turning or thickening the part is not enough.
              Choose a kind and point at the face where it goes in.
            </p>
          )}
          <ul>
            {rows.map((row) => (
              <Row
                key={row.id}
                row={row}
                analysis={holds ? analysis : null}
                here={row.id === picked}
                onPick={() => setPicked(row.id === picked ? null : row.id)}
              >
                {row.id === picked && (
                  <RowFields
                    row={row}
                    sizes={known.data?.offered[row.kind] ?? []}
                    up={up}
                    onChange={may ? (with_) => change(row.id, with_) : null}
                    onPointEnd={may && row.kind === "key" ? () => ask({ kind: "end", row: row.id }) : null}
                    onOut={
                      may
                        ? () =>
                            void write((job) => ({
                              hardware: { ...job.hardware, rows: job.hardware.rows.filter((r) => r.id !== row.id) },
                            }))
                        : null
                    }
                  />
                )}
              </Row>
            ))}
          </ul>
          {may && (
            <div className="flex items-end gap-2 border-b border-rule py-2" data-testid="add-hardware">
              <Select
                label="Kind of hardware"
                quiet
                value={kind}
                options={KINDS}
                onPick={(k) => setKind(k as Kind)}
                className="w-[170px]"
              />
              <Button plain onClick={() => ask(asking ? null : { kind: "place", what: kind })}>
                {asking?.kind === "place" ? "Stop pointing" : "Point at its place"}
              </Button>
            </div>
          )}
          {rows.some((r) => r.kind === "bolt") && <Meets hardware={part.job.hardware} onWrite={may ? write : null} />}
          {done && analysis.cuts > 0 && may && (
            <div className="space-y-1 pt-3" data-testid="take-hardware">
              {analysis.inexact && <p className="narrow text-ochre">{analysis.inexact}</p>}
              <Button disabled={!fitting || coming !== null} onClick={() => void take()}>
                {coming ? "Making the revision …" : `Take as a revision, ${analysis.cuts} cut`}
              </Button>
              {!fitting && <p className="narrow text-second">Every row has to fit before a revision is made.</p>}
            </div>
          )}
          {taken && <Taken taken={taken} onOpen={openPart} />}
        </div>
      </section>
      <section className="grid min-h-0 min-w-0 grid-rows-[1fr_260px]">
        <div className="relative min-h-0 border-b border-ink">
          {asking && (
            <PointAt>
              {asking.kind === "end"
                ? "Point at the other end of the key."
                : `Point at the face or bore for a ${kindWords(asking.what)}.`}
            </PointAt>
          )}
          {shape && (
            <Specimen
              shape={shape}
              up={up}
              limit={null}
              layer={Number(part.process.numbers.layer ?? 0.2)}
              ghosts={ghosts}
              onPick={asking ? pick : undefined}
              label={`${part.name} with its hardware, standing with ${directionWords(up)}`}
            />
          )}
        </div>
        {done ? (
          <Answers part={part} analysis={analysis} onFit={may ? fit : null} />
        ) : (
          <p className="px-3 py-2 text-second">
            {rows.length
              ? "The reserve with this hardware stands here once it is worked out."
              : "Nothing is placed yet."}
          </p>
        )}
      </section>
    </div>
  );
}

function Least({ analysis }: { analysis: HardwareAnalysis }) {
  const values = [
    ...(analysis.told?.cases.map((c) => c.clamped) ?? []),
    ...(analysis.told
      ? [analysis.told.preload.reserve]
      : (analysis.with_rods?.flatMap((c) => [c.reserve, c.elements]) ?? [])),
  ].filter((v) => v !== null);
  if (values.length === 0) return null;
  const least = Math.min(...values);
  return (
    <span data-testid="hardware-reserve">
      reserve <b className={`figure ${least < 1 ? "text-crown" : ""}`}>{reserve(least)}</b>
    </span>
  );
}

interface RowProps {
  row: HardwareRow;
  analysis: HardwareAnalysis | null;
  here: boolean;
  onPick: () => void;
  children: React.ReactNode;
}

function Row({ row, analysis, here, onPick, children }: RowProps) {
  const found = analysis?.rows.find((r) => r.id === row.id);
  const bolt = analysis?.told?.bolts.find((b) => b.id === row.id);
  const card = analysis?.cards[row.id];
  return (
    <li className={`border-b border-rule ${here ? "bg-raised" : ""}`} data-hardware={row.name}>
      <button type="button" className="w-full py-1.5 text-left" aria-expanded={here} onClick={onPick}>
        <span className="flex items-baseline justify-between gap-2">
          <b>{row.name}</b>
          <span className="narrow text-second">
            {kindWords(row.kind)} {row.size}
            {row.cut && ", cut"}
            {bolt && <span className="figure text-ink"> {torqueWords(bolt.torque_nmm)}</span>}
          </span>
        </span>
        {found?.why && <span className="block text-crown">{found.why}</span>}
        {found?.where && (
          <span className="narrow block text-second">
            {here || !found.where.grip_mm
              ? found.words
              : `fits, ${figure(found.where.grip_mm, 1)} mm between the seats`}
          </span>
        )}
        {found?.doubts.map((d) => (
          <span key={d} className="narrow block text-ochre">
            {d}
          </span>
        ))}
        {card?.rows.map((r) => (
          <span key={r.what} className="narrow block">
            {r.what}: bears{" "}
            <span className="figure">
              {figure(r.bears, r.bears < 10 ? 2 : 0)} {r.unit}
            </span>
            {r.reserve !== null && (
              <>
                , reserve <b className={`figure ${r.reserve < 1 ? "text-crown" : ""}`}>{reserve(r.reserve)}</b>
              </>
            )}
          </span>
        ))}
        {card?.words && <span className="narrow block text-second">{card.words}</span>}
      </button>
      {children}
    </li>
  );
}
