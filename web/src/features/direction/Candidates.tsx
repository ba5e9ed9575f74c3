/** The candidates as rows: numbers in columns, the non-dominated ones in full ink; alike ones in one row that opens. */
import { useEffect, useMemo, useRef, useState } from "react";

import type { Candidate } from "../../api/client";
import { rowsOf } from "../../domain/candidates";
import { columnsFor } from "../../domain/measures";
import { type Vec3, directionWords, sameDirection, toVec3 } from "../../domain/vectors";
import { Named } from "../../ui/Explained";

interface Props {
  /** Whether the reserves are those of the first, coarse answer. */
  coarse: boolean;
  candidates: readonly Candidate[];
  here: Candidate | null;
  /** Place of each candidate in the order that is shown, and of those given pins their letters. */
  places: ReadonlyMap<Candidate, number>;
  letters: ReadonlyMap<Candidate, string>;
  chosen: readonly number[] | null;
  onTake: (up: Vec3, rank: number | null) => void;
}

export function Candidates({ coarse, candidates, here, places, letters, chosen, onTake }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const columns = useMemo(() => columnsFor(candidates), [candidates]);
  const { rows, falls } = useMemo(() => rowsOf(candidates), [candidates]);
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set());
  const [fallen, setFallen] = useState(false);
  // Whatever is on the desk is in sight, be it in a row that nobody opened.
  const fold = (c: Candidate) => falls.includes(c);
  const showsFallen = fallen || (here !== null && fold(here));
  const isOpen = (row: (typeof rows)[number]) =>
    opened.has(row.first.number) || (here !== null && row.alike.includes(here));
  const shown = [
    ...rows.flatMap((row) => [row.first, ...(isOpen(row) ? row.alike : [])]),
    ...(showsFallen ? falls : []),
  ];
  const turn = (number: number) =>
    setOpened((now) => new Set(now.has(number) ? [...now].filter((n) => n !== number) : [...now, number]));
  useEffect(() => {
    box.current?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: "nearest" });
  }, [here]);
  return (
    <div
      ref={box}
      className="-mx-1 min-h-0 flex-1 overflow-y-auto border-t-[1.4px] border-ink px-1"
      tabIndex={0}
      aria-label="Candidates; arrow keys move between them"
      onKeyDown={(e) => {
        const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
        const next = by && shown[(here ? shown.indexOf(here) : -1) + by];
        if (by) e.preventDefault();
        if (next) onTake(toVec3(next.up), next.rank);
      }}
    >
      <table className="w-full border-collapse" data-testid="candidates">
        <thead className="sticky top-0 z-[1] bg-paper">
          <tr className="narrow text-right align-bottom text-[11.5px] text-second">
            <th className="w-7" />
            <th className="text-left font-normal">direction</th>
            {columns.map((c) => (
              <th key={c.key} className="pl-1.5 leading-[1.15] font-normal" title={c.long}>
                <Named of={c.of}>{c.head}</Named>
                <br />
                <span className="figure text-[10.5px]">
                  {c.key === "reserve" && coarse ? "coarse" : c.unit || "\u00a0"}
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((c) => {
            const row = rows.find((r) => r.first === c);
            const selected = c === here;
            const up = toVec3(c.up);
            const stood = chosen && sameDirection(up, chosen);
            return (
              <tr
                key={c.up.join()}
                aria-selected={selected}
                data-rank={places.get(c)}
                onClick={() => onTake(up, c.rank)}
                className={`cursor-pointer border-b border-rule text-right ${selected ? "bg-raised font-semibold" : "hover:bg-raised"} ${c.nondominated ? "" : "text-second"}`}
              >
                <td className="py-[3px]">
                  <span
                    className={`figure grid h-[19px] w-[19px] place-items-center rounded-full text-[10.5px] ${c.nondominated ? "border-[1.5px] border-ink" : "border border-dashed border-second"} ${selected ? "bg-ink text-raised" : ""}`}
                  >
                    {c.number}
                  </span>
                </td>
                <td className="narrow text-left leading-tight">
                  {directionWords(up)}
                  {letters.has(c) && (
                    <span className="figure ml-1 bg-ink px-1 text-[10px] text-raised">{letters.get(c)}</span>
                  )}
                  {c.source === "typed" && <span className="text-second"> · yours</span>}
                  {row && row.alike.length > 0 && (
                    <button
                      type="button"
                      className="ml-1 text-second underline hover:text-ink"
                      aria-expanded={isOpen(row)}
                      title="Directions that come to the same: mirror twins, or a hair apart"
                      onClick={(e) => {
                        e.stopPropagation();
                        turn(c.number);
                      }}
                    >
                      {isOpen(row) ? "and these" : `and ${row.alike.length} alike`}
                    </button>
                  )}
                  {!row && !fold(c) && <span className="text-second"> · alike</span>}
                  {stood && <span className="ml-1 bg-ink px-1 text-[10.5px] text-raised">chosen</span>}
                </td>
                {columns.map((col) => (
                  <td
                    key={col.key}
                    className={`figure pl-1.5 text-[11.5px] ${col.fails?.(c) ? "text-crown" : col.doubtful?.(c) ? "text-ochre" : ""}`}
                  >
                    {col.write(c)}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {falls.length > 0 && !(here !== null && fold(here)) && (
        <button
          type="button"
          className="py-1.5 text-left text-second underline hover:text-ink"
          aria-expanded={showsFallen}
          onClick={() => setFallen(!fallen)}
        >
          {showsFallen
            ? "fold what cannot stand"
            : `${falls.length} more cannot stand by ${falls.length === 1 ? "itself" : "themselves"}`}
        </button>
      )}
      {candidates.length === 0 && <p className="py-3 text-second">The candidates are being sliced.</p>}
    </div>
  );
}
