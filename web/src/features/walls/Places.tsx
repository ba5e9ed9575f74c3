/** What wants sizing beside the walls: bosses on infill, holes with little round them, sharp corners, lumps. */
import { type ReactNode, useState } from "react";

import type { SizingPlace } from "../../api/client";
import { PLACES, sparseFilling } from "../../domain/walls";
import { Button } from "../../ui/controls";

const SHOWN = 6;

interface Props {
  places: readonly SizingPlace[];
  picked: number | null;
  onPick: (number: number | null) => void;
  /** Does what cures it; null for those who may not. */
  onCure: ((place: SizingPlace) => void) | null;
  /** What came of the cure. */
  outcome: (place: SizingPlace) => ReactNode;
  /** Sets the job's process so that infill carries what a hollow would have to; null for those who may not. */
  onFill: ((perimeters: number, infill: number) => void) | null;
}

export function Places({ places, picked, onPick, onCure, outcome, onFill }: Props) {
  const [all, setAll] = useState(false);
  const shown = all ? places : places.slice(0, SHOWN);
  return (
    <ul data-testid="places">
      {shown.map((place, i) => {
        const result = PLACES[place.kind];
        if (!result) return null;
        const here = picked === i;
        const filling = sparseFilling(place);
        return (
          <li key={i} className={`border-b border-rule ${here ? "bg-lit" : ""}`} data-place={place.kind}>
            <button
              type="button"
              aria-pressed={here}
              onClick={() => onPick(here ? null : i)}
              className="flex w-full items-baseline gap-2 py-1 text-left hover:bg-raised"
            >
              <span
                className={`inline-block size-3 shrink-0 self-center ${place.kind === "body" ? "border border-bark" : "bg-ochre-mark"}`}
              />
              <span className="flex-1 font-semibold">{result.name}</span>
              <span className={`figure ${here ? "text-ink" : "text-second"}`}>{result.line(place)}</span>
            </button>
            {here && (
              <div className="pb-2 pl-5">
                <p>{result.words(place)}</p>
                {outcome(place)}
                <div className="mt-1 flex justify-end gap-2">
                  {onFill && filling && (
                    <Button plain onClick={() => onFill(place.perimeters ?? 1, place.infill ?? 0)}>
                      {filling}
                    </Button>
                  )}
                  {onCure && (
                    <Button plain onClick={() => onCure(place)}>
                      {result.cure}
                    </Button>
                  )}
                </div>
              </div>
            )}
          </li>
        );
      })}
      {places.length > SHOWN && (
        <li className="py-1.5">
          <button type="button" className="underline" onClick={() => setAll(!all)}>
            {all ? "the first few only" : `and ${places.length - SHOWN} more`}
          </button>
        </li>
      )}
    </ul>
  );
}
