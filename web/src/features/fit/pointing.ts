/** What is pointed at here, one thing after another, and the rows that come of it. */
import { useState } from "react";

import { type Part, api } from "../../api/client";
import type { FeatureKind, FitState, Mate, Touch } from "../../api/fit";
import type { useStage } from "../../api/stage";
import { freeColour, newId } from "../../domain/needs";
import type { Vec3 } from "../../domain/vectors";
import type { Pointed } from "../../scene/Specimen";
import { type Shape, normalOf } from "../../scene/shape";
import { type Write, listsOf } from "./rows";

export type Beside = FitState["beside"][number];

/** A pair of faces that meet, of this part first: of a mate that is there already, or of a part. */
export interface Setting {
  other: Beside;
  mate: Mate | null;
  mine: { at: Vec3; normal: Vec3 } | null;
}

/** A feature of a kind, after its first place where it has two. */
interface Making {
  making: FeatureKind;
  first: Pointed | null;
}

/** A named face of a bought part, which meets one of this part. */
interface Meeting {
  meeting: Mate;
  face: string;
}

export type Asking = "face" | "arm" | Making | Setting | Meeting;

export function saidOf(asking: Asking): string {
  if (asking === "face") return "Point at a bore, a pin, or one wall of a slot or tongue.";
  if (asking === "arm")
    return "Point at the broad face of what bends, away from its catch; or at a round wall beside its bead.";
  if ("other" in asking)
    return asking.mine
      ? `Now at the face of “${asking.other.name}” that it meets.`
      : "Point at a face of this part that meets it.";
  if ("meeting" in asking) return `Point at the face that meets the ${asking.face} of “${asking.meeting.name}”.`;
  const { making, first } = asking;
  return `Point at ${first && making.second ? making.second : making.point}.`;
}

/** `send` asks the server what a face is; `open` opens the row that came of it. */
export function usePointing(
  part: Part,
  write: Write,
  send: ReturnType<typeof useStage>["send"],
  open: (id: string) => void,
) {
  const [asking, ask] = useState<Asking | null>(null);
  const lists = listsOf(write);
  const { regions, flexing, features } = part.job;

  const touch = async (facet: number) => {
    ask(null);
    const found = await send(() => api.point(part.id, facet, false));
    if (!found) return;
    const [region, id] = [newId(), newId()];
    const isTaken = (name: string) => regions.rows.some((r) => r.name === name);
    let name = found.called;
    for (let n = 2; isTaken(name); n++) name = `${found.called}, ${n}`;
    const row = { id, on: region, duty: "mating", fit: "sliding" };
    const done = await write((job) => ({
      regions: {
        rows: [...job.regions.rows, { id: region, name, colour: freeColour(job.regions.rows), shape: found.shape }],
      },
      touching: { ...job.touching, rows: [...job.touching.rows, row as Touch] },
    }));
    if (done) open(id);
  };

  const arm = async (at: Pointed, shape: Shape) => {
    ask(null);
    const id = newId();
    const row = {
      id,
      name: `arm ${flexing.rows.length + 1}`,
      at: [...at.point],
      normal: [...normalOf(shape, at.facet)],
    };
    if (await lists.flexing((now) => [...now, row])) open(id);
  };

  const feature = async (at: Pointed, shape: Shape, { making, first }: Making) => {
    if (making.second && !first) return ask({ making, first: at });
    ask(null);
    const [id, on] = [newId(), first ?? at];
    const count = features.rows.filter((f) => f.kind === making.key).length + 1;
    const row = {
      id,
      name: `${making.title.toLowerCase()} ${count}`,
      kind: making.key,
      at: [...on.point],
      normal: [...normalOf(shape, on.facet)],
      end: first && [...at.point],
    };
    if (await lists.features((now) => [...now, row])) open(id);
  };

  const pair = async (at: Pointed, shape: Shape, { other, mate, mine }: Setting) => {
    const normal = normalOf(shape, at.facet);
    if (!mine) return ask({ other, mate, mine: { at: at.point, normal } });
    ask(null);
    const met = { at: mine.at, normal: mine.normal, their_at: at.point, their_normal: normal };
    const id = mate?.id ?? newId();
    const added = (now: Mate[]) =>
      mate
        ? now.map((m) => (m.id === id ? { ...m, pairs: [...m.pairs, met] } : m))
        : [...now, { id, name: other.name, part: other.part, pairs: [met] }];
    if (await lists.mates(added)) open(id);
  };

  const meet = async (at: Pointed, shape: Shape, { meeting, face }: Meeting) => {
    ask(null);
    const met = { at: at.point, normal: normalOf(shape, at.facet), face };
    await lists.mates((now) => now.map((m) => (m.id === meeting.id ? { ...m, pairs: [...m.pairs, met] } : m)));
  };

  const pointAt = (at: Pointed, shape: Shape) => {
    if (asking === "face") return touch(at.facet);
    if (asking === "arm") return arm(at, shape);
    if (!asking) return undefined;
    if ("meeting" in asking) return meet(at, shape, asking);
    return "other" in asking ? pair(at, shape, asking) : feature(at, shape, asking);
  };

  const setting = asking !== null && typeof asking === "object" && "other" in asking ? asking : null;
  return { asking, ask, setting, pointAt, touch };
}
