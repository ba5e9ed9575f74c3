/** How much each measure counts: the order of the candidates follows while a slider moves. */
import { useEffect, useRef, useState } from "react";

import type { Weights } from "../../api/client";
import { WEIGHTS } from "../../domain/measures";

interface Props {
  weights: Weights | null;
  /** Called with every move; `settled` once the hand has left. */
  onChange: (weights: Weights | null, settled: boolean) => void;
  mayEdit: boolean;
}

const PLAIN: Weights = {
  support: 3,
  stability: 2,
  time: 1,
  height: 0,
  scar: 1,
  curl: 1,
  finish: 0,
  protected: 2,
  strength: 3,
};

export function WeightStrip({ weights, onChange, mayEdit }: Props) {
  const [draft, setDraft] = useState(weights);
  const moving = useRef(false);
  useEffect(() => {
    if (!moving.current) setDraft(weights);
  }, [weights]);
  const move = (key: keyof Weights, value: number) => {
    moving.current = true;
    const next = { ...(draft ?? PLAIN), [key]: value };
    setDraft(next);
    onChange(next, false);
  };
  const settle = () => {
    if (moving.current && draft) onChange(draft, true);
    moving.current = false;
  };
  return (
    <div className="flex items-end gap-3 border-t-[1.4px] border-ink py-1" data-testid="weights">
      <div
        className="narrow flex w-[92px] shrink-0 flex-col leading-tight"
        role="radiogroup"
        aria-label="Order of the candidates"
      >
        {(
          [
            ["plain order", null],
            ["by weights", draft ?? PLAIN],
          ] as const
        ).map(([words, value]) => (
          <label key={words} className="flex items-center gap-1.5">
            <input
              type="radio"
              name="order"
              className="accent-ink"
              disabled={!mayEdit}
              checked={(weights === null) === (value === null)}
              onChange={() => onChange(value, true)}
            />
            {words}
          </label>
        ))}
      </div>
      {weights === null ? (
        <p className="narrow text-second">
          What stands by itself and holds its loads first, then the least unsupported area, then stability.
        </p>
      ) : (
        WEIGHTS.map(({ key, words }) => (
          <label key={key} className="narrow min-w-0 flex-auto text-[11.5px] leading-tight">
            <span className="flex justify-between gap-1">
              {words} <span className="figure text-[10.5px]">{draft?.[key] ?? 0}</span>
            </span>
            <input
              type="range"
              min={0}
              max={5}
              step={0.5}
              disabled={!mayEdit}
              value={draft?.[key] ?? 0}
              aria-label={`Weight of ${words}`}
              onChange={(e) => move(key, Number(e.target.value))}
              onPointerUp={settle}
              onKeyUp={settle}
              onBlur={settle}
              className="block h-4 w-full accent-moss"
            />
          </label>
        ))
      )}
    </div>
  );
}
