/** The part with its loads and faces: pointing at one or several, by pointer and by key. */
import { useMemo, useState } from "react";

import { type Job, api } from "../../api/client";
import { usePaint, useSend, useShape, useSpaces } from "../../api/queries";
import { sameFace } from "../../domain/loading";
import { BREAKS, axisWords, wordsOf } from "../../domain/needs";
import { MOSS, OCHRE } from "../../domain/palette";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { type Arrow, Arrows, type Label } from "../../scene/Arrows";
import { type Pointed, Specimen } from "../../scene/Specimen";
import { faceSteps, facesOf, nextFace, placeOf } from "../../scene/faces";
import { creaseNear, decodeCorners, decodeShape } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { type Command, useCommands } from "../../ui/commands";
import { Trouble } from "../../ui/controls";
import { Chip } from "./Chip";
import { FaceOnDesk } from "./FaceOnDesk";
import type { Desk, OnDesk } from "./state";

export interface OnDeskProps {
  up: Vec3;
  onDesk: OnDesk | null;
  setOnDesk: (face: OnDesk | null) => void;
  onTurning: (turning: { id: string; direction: Vec3 } | null) => void;
}

/** Share by which the areas of faces that are alike may differ, and how many of them are looked at. */
const ALIKE = 0.01;
const MOST_ALIKE = 24;

/** Colours of a space that somebody wrote down, and of one that only looks used. */
const FREE = { written: MOSS, likely: OCHRE } as const;

export function PartAndFace({ desk, up, onDesk, setOnDesk, onTurning }: OnDeskProps & { desk: Desk }) {
  const { part, job, needs, asking, ask, may } = desk;
  const data = useShape(part.id, part.view);
  const shape = useMemo(() => (data.data ? decodeShape(data.data) : null), [data.data]);
  const paint = usePaint(part);
  const spaces = useSpaces(part, desk.tab === "faces").data;
  const ghosts = useMemo(
    () =>
      desk.tab === "faces"
        ? spaces?.map((s) => ({ corners: decodeCorners(s.corners), colour: s.likely ? FREE.likely : FREE.written }))
        : undefined,
    [desk.tab, spaces],
  );
  const free = ([false, true] as const)
    .filter((likely) => ghosts && spaces?.some((s) => s.likely === likely))
    .map((likely) => (likely ? "likely" : "written"));
  const [wide, setWide] = useState(false);
  const { send, trouble } = useSend();
  const rows = job.regions.rows;
  const tints = useMemo(
    () => (paint.data ? { regions: paint.data, colours: rows.map((r) => r.colour) } : undefined),
    [paint.data, rows],
  );

  const meant = async (facet: number, asWide: boolean) => {
    const found = await send(() => api.point(part.id, facet, asWide));
    if (!found) return null;
    const same = rows.find((r) => sameFace(r, found));
    return { ...found, facet, wide: asWide, region: same?.id ?? null };
  };
  const [others, setOthers] = useState<readonly OnDesk[]>([]);
  const [behind, setBehind] = useState<NonNullable<Pointed["behind"]>>([]);
  const faces = useMemo(() => (shape ? facesOf(shape) : []), [shape]);
  const [fly, setFly] = useState<Place | null>(null);
  const faceOf = (facet: number) => (shape ? (wide ? shape.wide : shape.face)[facet] : undefined);
  const lay = (face: OnDesk | null, beside: readonly OnDesk[] = []) => {
    setOnDesk(face);
    setOthers(beside);
  };
  /** One more face, or one less where it is taken already. */
  const turn = (found: OnDesk) => {
    const all = onDesk ? [onDesk, ...others] : [];
    const without = all.filter((f) => !sameFace(f, found));
    const left = without.length < all.length ? without : [...all, found];
    lay(left[0] ?? null, left.slice(1));
  };
  /** All that are of the same kind and size. */
  const alike = async () => {
    if (!onDesk || !shape) return;
    const own = faces.find((f) => f.face === shape.face[onDesk.facet]);
    const near = faces.filter((f) => own && f !== own && Math.abs(f.area - own.area) <= ALIKE * own.area);
    const found = await Promise.all(near.slice(0, MOST_ALIKE).map((f) => meant(f.facet, wide)));
    const fits = (f: OnDesk | null): f is OnDesk =>
      f !== null &&
      f.kind === onDesk.kind &&
      Math.abs((f.diameter_mm ?? 0) - (onDesk.diameter_mm ?? 0)) < 0.01 &&
      !sameFace(f, onDesk);
    const fresh = new Map(found.filter(fits).map((f) => [JSON.stringify(f.shape), f]));
    setOthers([...fresh.values()]);
  };
  const through = async () => {
    const next = behind.find((hit) => faceOf(hit.facet) !== faceOf(onDesk?.facet ?? -1));
    if (!next) return;
    setBehind(behind.slice(behind.indexOf(next) + 1));
    lay(await meant(next.facet, wide));
  };
  const commands = useMemo<Command[]>(() => {
    const steps = faceSteps((by, fits) => {
      const here = shape && onDesk ? (shape.face[onDesk.facet] ?? null) : null;
      const next = nextFace(faces, here, by, fits);
      if (!next) return;
      setFly(placeOf(next));
      void meant(next.facet, wide).then((found) => lay(found));
    });
    return [
      ...steps,
      { name: "Tangent or coaxial faces with it", keys: "n", run: () => void widen(!wide) },
      { name: "All faces that are alike", keys: "a", run: () => void alike() },
      { name: "The face behind it", keys: "e", run: () => void through() },
      {
        name: "Say what the face is for",
        keys: "Enter",
        run: () =>
          document.querySelector<HTMLElement>("[data-testid=face-on-desk] input:not([type=checkbox])")?.focus(),
      },
    ];
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what these do follows from what stands here
  }, [shape, faces, onDesk, others, behind, wide]);
  useCommands(commands);
  const pick = async (at: Pointed, pixelsPerMm: number) => {
    if (asking?.kind === "spot") {
      asking.take(at.point);
      ask(null);
      return;
    }
    if (asking?.kind === "direction" && shape) {
      const edge = creaseNear(shape, at.point, 5 / pixelsPerMm);
      const face = edge ? null : await meant(at.facet, false);
      const direction = edge ?? (face?.axis ? toVec3(face.axis) : null);
      if (!direction) return;
      asking.take(
        direction,
        edge ? "along an edge" : face?.kind === "flat" ? "normal of a flat" : `axis of a ${face?.kind ?? "bore"}`,
      );
      ask(null);
      return;
    }
    const found = await meant(at.facet, wide);
    setBehind(at.behind ?? []);
    if (at.more && found) turn(found);
    else lay(found);
  };
  const widen = async (now: boolean) => {
    setWide(now);
    if (onDesk) setOnDesk(await meant(onDesk.facet, now));
  };
  const turnHead = (id: string, direction: Vec3, done: boolean) => {
    onTurning(done ? null : { id, direction });
    if (done)
      void desk.write((j) => ({
        loads: {
          ...j.loads,
          cases: j.loads.cases.map((c) => ({
            ...c,
            loads: c.loads.map((l) => (l.id === id ? { ...l, direction, direction_words: "turned by hand" } : l)),
          })),
        },
      }));
  };
  const label = shape ? (wide ? shape.wide : shape.face)[onDesk?.facet ?? -1] : undefined;
  return (
    <>
      <div className="relative min-h-0 flex-1">
        {shape ? (
          <Specimen
            shape={shape}
            up={up}
            limit={null}
            layer={part.process.numbers.layer as number}
            faces={{ wide, onDesk: label ?? -1 }}
            ghosts={ghosts}
            tints={tints}
            fly={fly}
            onPick={(at, pixels) => void pick(at, pixels)}
            over={(picture, width, height) => (
              <Arrows
                picture={picture}
                width={width}
                height={height}
                arrows={arrowsOf(desk)}
                labels={labelsOf(desk)}
                onTurn={may ? turnHead : undefined}
              />
            )}
            label={`${part.name}: point at a face`}
          />
        ) : (
          <p className="p-4 text-second">{data.error ? data.error.message : "Drawing the part …"}</p>
        )}
        <p
          className={`pointer-events-none absolute top-3 left-4 right-4 ${asking ? "font-semibold text-crown" : "text-second"}`}
          aria-live="polite"
          data-testid="asks"
        >
          {asking ? `${asking.words} · Esc leaves` : "Point at a face, a bore or a pin and press."}
        </p>
      </div>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {/* As high with a face as without one: what opens must not move the part under the pointer. */}
      <div className="h-[112px] shrink-0 overflow-y-auto border-t-[1.4px] border-ink bg-raised">
        {onDesk ? (
          <FaceOnDesk
            key={`${onDesk.facet}-${onDesk.wide}`}
            face={onDesk}
            others={others}
            onWide={(now) => void widen(now)}
            onAlike={() => void alike()}
            onThrough={behind.length > 0 ? () => void through() : null}
            onDone={() => lay(null)}
          />
        ) : needs && (rows.length > 0 || free.length > 0) ? (
          <Key job={job} free={free} />
        ) : (
          <p className="px-4 py-2 text-second">
            Press a face; with Shift, several. By keys: ] and [ go from face to face, o from bore to bore, Enter says
            what it is for.
          </p>
        )}
      </div>
    </>
  );
}

/** Which colour on the part is which face, and which space beside it stays free. */
function Key({ job, free }: { job: Job; free: readonly (keyof typeof FREE)[] }) {
  return (
    <ul className="flex flex-wrap gap-x-4 px-4 py-1.5" aria-label="Faces on the part">
      {job.regions.rows.map((r) => (
        <li key={r.id} className="narrow flex items-center gap-1.5">
          <Chip colour={r.colour} /> {r.name}
        </li>
      ))}
      {free.map((kind) => (
        <li key={kind} className="narrow flex items-center gap-1.5">
          <span
            className="inline-block h-3 w-3 shrink-0 opacity-60"
            style={{ background: FREE[kind] }}
            aria-hidden="true"
          />
          {kind === "likely" ? "likely to be used, stays free" : "stays free"}
        </li>
      ))}
    </ul>
  );
}

function arrowsOf(desk: Desk): Arrow[] {
  const shown = desk.job.loads.cases.find((c) => c.id === desk.caseId);
  if (!shown || !desk.needs) return [];
  const where = new Map(desk.needs.regions.map((r) => [r.id, r]));
  const centre = toVec3(desk.part.facts.centre_of_mass_mm);
  const out: Arrow[] = shown.loads.flatMap((l): Arrow[] => {
    const region = l.on ? where.get(l.on) : null;
    if (l.on && !region) return [];
    const direction =
      desk.turning?.id === l.id
        ? desk.turning.direction
        : l.direction
          ? toVec3(l.direction)
          : region?.axis
            ? (toVec3(region.axis).map((x) => -x) as unknown as Vec3)
            : null;
    if (!direction) return [];
    const at = l.kind === "weight" ? centre : toVec3(region?.centre_mm ?? [0, 0, 0]);
    return [{ id: l.id, at, direction, words: l.amount.typed, kind: l.kind, turns: desk.may && l.kind !== "pressure" }];
  });
  const sum = desk.needs.cases.find((c) => c.id === shown.id);
  for (const a of sum?.answers ?? []) {
    const size = Math.hypot(...a.force_n);
    if (size < 1e-6) continue;
    out.push({
      id: `answer-${a.held}`,
      at: toVec3(a.centre_mm),
      direction: toVec3(a.force_n.map((x) => x / size)),
      words: "",
      kind: "answer",
      turns: false,
    });
  }
  return out;
}

function labelsOf(desk: Desk): Label[] {
  const where = new Map((desk.needs?.regions ?? []).map((r) => [r.id, r]));
  const held = desk.job.loads.held.flatMap((h): Label[] => {
    const region = where.get(h.on);
    const at = h.washer?.centre ?? region?.centre_mm;
    return at ? [{ id: h.id, at: toVec3(at), words: "held", colour: 0, sign: "held" }] : [];
  });
  const spots = desk.job.requirements.rows.flatMap((r): Label[] =>
    r.guess?.spot
      ? [{ id: r.id, at: toVec3(r.guess.spot), words: wordsOf(BREAKS, r.guess.how), colour: 0, sign: "spot" }]
      : [],
  );
  const moves = desk.job.loads.movements.map((m): Label => ({
    id: m.id,
    at: toVec3(m.point),
    words: `moves ≤ ${m.permitted.typed} along ${axisWords(toVec3(m.direction))}`,
    colour: 2,
    sign: "face",
  }));
  return [...held, ...spots, ...moves];
}
