/** The answer of the check: which directions were looked at, whether the part holds in this one, and what was expected. */
import type { ReactNode } from "react";

import type { Check, Part, Solution } from "../../api/client";
import { useStudy } from "../../api/queries";
import { figure } from "../../domain/figures";
import { HOLDING_TONES, holding } from "../../domain/measures";
import { BREAKS, isLoaded, wordsOf } from "../../domain/needs";
import { MODES, reserve } from "../../domain/strength";
import { type Vec3, directionWords, sameDirection, toVec3 } from "../../domain/vectors";
import { Explained } from "../../ui/Explained";

/** What the answer for all directions says of one that has not been solved by itself, and the way to that. */
export function FirstWord({
  part,
  up,
  level,
  children,
}: {
  part: Part;
  up: Vec3;
  level: Check["level"];
  children: ReactNode;
}) {
  const stood = useStudy(part.study).data?.candidates.find((c) => sameDirection(c.up, up));
  const held = stood ? holding(stood, isLoaded(part), level === "coarse") : null;
  const known = held && held.state !== "unknown";
  return (
    <div className="flex items-center gap-3 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
      <p className="flex-1">
        {known && (
          <span className={`block text-[14.5px] ${HOLDING_TONES[held.state]}`} data-testid="first-word">
            {held.words}
          </span>
        )}
        <span className={known ? "narrow text-second" : ""}>
          {known
            ? "Read from the answer for all directions: where it breaks, and in which layer, is found by solving this one."
            : "This direction has not been solved."}
        </span>
      </p>
      {children}
    </div>
  );
}

/** The answer in a sentence, and what was expected. */
export function Verdict({ part, result, level }: { part: Part; result: Solution; level: Check["level"] }) {
  const worst = result.worst === null ? null : result.cases[result.worst];
  if (!worst || worst.reserve === null) return <p className="text-[15px]">No load acts in this direction.</p>;
  const fails = worst.reserve < 1;
  const { doubtful } = worst;
  return (
    <div data-testid="verdict">
      <p className="text-[14.5px] leading-snug">
        <b className={fails ? "text-crown" : doubtful ? "text-ochre" : ""}>
          {fails ? "Fails." : doubtful ? "May fail." : "Holds."}
        </b>{" "}
        Weakest at <b className="figure">{figure(worst.z_mm, 1)} mm</b> above the plate: {MODES[worst.mode]} under{" "}
        <b>{worst.name}</b>; <Explained of="reserve">reserve</Explained>{" "}
        <b className={`figure ${fails ? "text-crown" : ""}`}>{reserve(worst.reserve)}</b>{" "}
        {worst.low !== null && worst.high !== null && (
          <span className="figure text-second">
            ({reserve(worst.low)}…{reserve(worst.high)}
            {level === "coarse" && ", coarse"})
          </span>
        )}
      </p>
      {result.guesses
        .filter((g) => g.case === worst.name)
        .map((g) => (
          <p key={g.case} className="narrow text-second" data-testid="guess">
            Under {g.case} you expected: {wordsOf(BREAKS, g.how)}
            {g.where && `, ${g.where}`}. Found:{" "}
            {g.way === null ? "not of the kind a check finds" : g.way ? "the same way" : "another way"}
            {g.place !== null && (
              <>
                , {g.place ? "the same place" : "elsewhere"} (<span className="figure">{figure(g.away_mm, 1)} mm</span>{" "}
                off)
              </>
            )}
            .
          </p>
        ))}
      {!result.own_layers && (
        <p className="narrow text-second">
          {level === "coarse"
            ? "A first answer on coarse voxels: it misses peaks and moves as finer ones come."
            : "Read from the solution for all directions; its own layers, walls and infill come after it."}
        </p>
      )}
      {part.cautions.length > 0 ? (
        <p className="narrow mt-1 border-l-4 border-crown pl-2" data-testid="caution">
          {part.cautions.slice(0, 2).join(" ")}
        </p>
      ) : (
        <p className="narrow text-second">A screening estimate: prove it by a trial printed as the batch will be.</p>
      )}
    </div>
  );
}

/** The directions of the check; the one on the desk in ink. */
export function Directions({
  check,
  up,
  first,
  chosen,
  onUp,
}: {
  check: Check | null;
  up: Vec3;
  /** The direction that is chosen or proposed; null where there is none yet, undefined until that has been read. */
  first: readonly number[] | null | undefined;
  chosen: readonly number[] | null;
  onUp: (up: readonly number[]) => void;
}) {
  const directions = check?.directions ?? [];
  const all =
    first && !directions.some((s) => sameDirection(s.up, first))
      ? [{ up: first, reserve: null, id: "first" }, ...directions]
      : directions;
  if (first === undefined) return null;
  if (!first) return <p className="narrow text-second">No direction yet: the first candidate is being sliced.</p>;
  return (
    <div className="flex flex-wrap gap-1.5" role="radiogroup" aria-label="Direction looked at">
      {all.map((s) => {
        const here = sameDirection(s.up, up);
        return (
          <button
            key={s.id}
            type="button"
            role="radio"
            aria-checked={here}
            onClick={() => onUp(s.up)}
            className={`narrow border px-1.5 ${here ? "border-ink bg-ink text-raised" : "border-bark hover:bg-raised"}`}
          >
            {directionWords(toVec3(s.up))}
            {chosen ? sameDirection(s.up, chosen) && " · chosen" : sameDirection(s.up, first) && " · first candidate"}
            {s.reserve !== null && <b className="figure pl-1.5">{reserve(s.reserve)}</b>}
          </button>
        );
      })}
    </div>
  );
}
