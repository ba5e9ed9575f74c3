/** What an engineer wants to know of a part within a minute: how to stand it, what fails there, what it takes and costs. */
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";

import { useFirstPrice } from "../../api/batch";
import type { Part } from "../../api/client";
import { useCurrency, useStudy, useWalls } from "../../api/queries";
import { useHoldingCheck, useStrength } from "../../api/strength";
import { figure, hours } from "../../domain/figures";
import { HOLDING_TONES, holding, verdict } from "../../domain/measures";
import { isLoaded } from "../../domain/needs";
import { directionWords, sameDirection, toVec3, writeDirection } from "../../domain/vectors";
import { isOpen } from "../../domain/work";
import { Explained } from "../../ui/Explained";

export function FirstMinute({ part }: { part: Part }) {
  const study = useStudy(part.study).data;
  const strength = useStrength(part).data;
  const check = strength?.check ?? null;
  const answers = useHoldingCheck(part);
  const walls = useWalls(part).data;
  const price = useFirstPrice(part, study?.candidates.length ?? 0).data;
  const currency = useCurrency();
  const decided = part.choice ?? part.carried;
  const best = study?.candidates.reduce<(typeof study.candidates)[number] | null>(
    (a, b) => (a && a.rank <= b.rank ? a : b),
    null,
  );
  const stood = decided ? study?.candidates.find((c) => sameDirection(c.up, decided.up)) : best;
  const coarse = check?.level === "coarse";
  const held = stood ? holding(stood, isLoaded(part), coarse) : null;
  const checking = isLoaded(part) && (!answers || isOpen(answers.work));
  const others = study?.candidates.filter((c) => c !== stood && typeof c.reserve === "number" && c.reserve >= 1) ?? [];
  const saved = held?.state === "fails" ? others.sort((a, b) => a.rank - b.rank)[0] : undefined;
  return (
    <dl className="grid grid-cols-[84px_1fr] gap-x-3 gap-y-2" data-testid="first-minute">
      <Line name={part.choice ? "stands" : "best stood"}>
        {stood ? (
          <>
            <Link
              to="/parts/$partId/direction"
              params={{ partId: part.id }}
              search={{ up: writeDirection(stood.up) }}
              className="font-bold underline"
            >
              {directionWords(toVec3(stood.up))}
            </Link>{" "}
            <span className="text-second">
              candidate {stood.number} of {study?.candidates.length ?? 0}
              {isOpen(study?.work) ? " so far" : ""}
              {part.choice ? ", chosen" : ""}
            </span>
            <span className="block">{verdict(stood)}</span>
          </>
        ) : (
          <Wait>{study ? study.work.doing || "Comparing the ways it can stand …" : READING}</Wait>
        )}
      </Line>
      <Line name="holds">
        {!isLoaded(part) ? (
          <span className="text-second">Say below what holds and loads it.</span>
        ) : held && held.state !== "unknown" ? (
          <span className={HOLDING_TONES[held.state]} data-testid="first-reserve">
            {held.words}
          </span>
        ) : (
          <Wait>{study && strength ? check?.work?.doing || "Calculating the first reserve …" : READING}</Wait>
        )}
        {checking && held && held.state !== "unknown" && <Wait>{check?.work?.doing || "calculating again …"}</Wait>}
        {saved && (
          <span className="block">
            It holds standing{" "}
            <Link
              to="/parts/$partId/direction"
              params={{ partId: part.id }}
              search={{ up: writeDirection(saved.up) }}
              className="underline"
            >
              {directionWords(toVec3(saved.up))}
            </Link>
            , reserve {figure(saved.reserve, 2)}.
          </span>
        )}
      </Line>
      <Line name="one copy">
        {price ? (
          <span data-testid="first-price">
            <b className="figure">{hours(price.seconds)}</b> h, <b className="figure">{figure(price.grams, 1)}</b> g,{" "}
            <b className="figure">{figure(price.cost, 2)}</b> <Explained of="cost">{currency}</Explained>{" "}
            <Link to="/parts/$partId/batch" params={{ partId: part.id }} className="text-second underline">
              by itself; a full plate costs less
            </Link>
          </span>
        ) : (
          <Wait>{price === null ? "Not known before the first candidate is sliced." : READING}</Wait>
        )}
      </Line>
      <Line name="made of">
        {madeOf(part, walls && (walls.analysis?.done ? walls.analysis : null)).map((words, i) => (
          <span key={i}>
            {i > 0 && " · "}
            {words}
          </span>
        ))}
      </Line>
    </dl>
  );
}

interface Walls {
  min_thickness_mm: number | null;
  places: readonly { kind: string }[];
}

/** Bores by their size, bosses, the thinnest wall: what somebody would say who describes the part. */
function madeOf(part: Part, walls: Walls | null | undefined) {
  const { bores, bodies } = part.facts;
  const out: string[] = [];
  if (bores === null) out.push("looking for bores …");
  else {
    const sizes = new Map<string, number>();
    for (const b of bores) {
      const key = `⌀ ${figure(b.diameter_mm, 1)}${b.through ? "" : " blind"}`;
      sizes.set(key, (sizes.get(key) ?? 0) + 1);
    }
    out.push(
      bores.length === 0
        ? "no bore"
        : [...sizes].map(([key, n]) => `${n} ${n === 1 ? "bore" : "bores"} ${key} mm`).join(", "),
    );
  }
  if (walls === null) out.push("walls not measured yet");
  else if (walls) {
    if (walls.min_thickness_mm !== null) out.push(`thinnest wall ${figure(walls.min_thickness_mm, 2)} mm`);
    const bosses = walls.places.filter((p) => p.kind === "boss").length;
    if (bosses > 0) out.push(`${bosses} ${bosses === 1 ? "boss" : "bosses"} on infill`);
  }
  if (bodies > 1) out.push(`${bodies} bodies`);
  return out;
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-second">{name}</dt>
      <dd>{children}</dd>
    </>
  );
}

/** Until the server has said what there is, nothing is claimed of it. */
const READING = "Reading …";

const Wait = ({ children }: { children: ReactNode }) => (
  <span className="block text-second" role="status">
    {children}
  </span>
);
