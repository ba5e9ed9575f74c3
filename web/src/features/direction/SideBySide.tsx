/** Two or three pinned directions beside the one on the desk, measure by measure. */
import { useState } from "react";

import type { Candidate } from "../../api/client";
import { comparedFor } from "../../domain/measures";
import { directionWords, toVec3 } from "../../domain/vectors";
import { Ghost, SIGHT } from "../../scene/Ghost";
import type { Shape } from "../../scene/shape";
import { turned } from "../../scene/view";

export const LETTERS = ["A", "B", "C"] as const;

interface Props {
  pinned: readonly (Candidate | null)[];
  here: Candidate | null;
  ghost: Shape | null;
  limit: number;
  onTake: (candidate: Candidate) => void;
  onUnpin: ((place: number) => void) | null;
}

export function SideBySide({ pinned, here, ghost, limit, onTake, onUnpin }: Props) {
  const columns = pinned.map((c, i) => ({ c, letter: LETTERS[i] ?? "", place: i }));
  // One hand turns them all: what is compared is seen from the same side.
  const [sight, setSight] = useState(SIGHT);
  const turn = (e: React.PointerEvent) => {
    if (e.buttons !== 1) return;
    setSight((now) => turned(now, e.movementX * 0.012, e.movementY * 0.012));
  };
  const shown = columns.flatMap((k) => (k.c ? [k.c] : []));
  return (
    <div
      className="min-h-0 overflow-y-auto border-t-[1.4px] border-ink px-4 pb-1"
      data-testid="side-by-side"
      tabIndex={0}
      aria-label="Pinned directions side by side"
    >
      <table className="w-full table-fixed border-collapse">
        <thead>
          <tr className="align-top">
            <th className="w-[108px] pt-1 text-left font-bold">Side by side</th>
            {columns.map(({ c, letter, place }) => (
              <th key={letter} className="pt-1 pl-2 text-left font-normal">
                <span className="flex items-baseline gap-1.5">
                  <span className="figure bg-ink px-1.5 text-[11px] text-raised">{letter}</span>
                  {c && (
                    <button
                      type="button"
                      className={`narrow truncate text-left hover:underline ${c === here ? "font-semibold" : ""}`}
                      onClick={() => onTake(c)}
                    >
                      {directionWords(toVec3(c.up))}
                    </button>
                  )}
                  {onUnpin && (
                    <button
                      type="button"
                      className="ml-auto text-second hover:text-ink"
                      aria-label={`Unpin ${letter}`}
                      onClick={() => onUnpin(place)}
                    >
                      ×
                    </button>
                  )}
                </span>
                {c && ghost ? (
                  <span
                    className="block h-[74px] cursor-grab touch-none active:cursor-grabbing"
                    title="Drag: all turn together"
                    onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
                    onPointerMove={turn}
                  >
                    <Ghost
                      shape={ghost}
                      up={toVec3(c.up)}
                      limit={limit}
                      sight={sight}
                      label={`${letter}: ${directionWords(toVec3(c.up))}`}
                    />
                  </span>
                ) : (
                  <span className="block text-second">not sliced for this process</span>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {comparedFor(shown).map((m) => {
            const values = shown.map((c) => m.value(c)).filter((v): v is number => v !== null);
            const best =
              values.length > 1 && m.better ? (m.better === "less" ? Math.min(...values) : Math.max(...values)) : null;
            const level = values.length > 1 && values.every((v) => v === values[0]);
            return (
              <tr key={m.head} className="border-t border-rule leading-[1.3]" title={m.long}>
                <th className="narrow text-left font-normal text-second">
                  {m.head} {m.unit && <span className="figure text-[10.5px]">{m.unit}</span>}
                </th>
                {columns.map(({ c, letter }) => {
                  const winner = c !== null && !level && best !== null && m.value(c) === best;
                  return (
                    <td
                      key={letter}
                      className={`figure pl-2 text-[11.5px] ${winner ? "font-semibold" : ""} ${c && m.fails?.(c) ? "text-crown" : ""}`}
                    >
                      {c ? m.write(c) : "–"}
                      {winner && <span aria-label="best of these"> ◂</span>}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
