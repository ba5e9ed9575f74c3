/** The direction on the desk turned by a small angle about an axis of the part; everything is calculated for it anew. */
import { useState } from "react";

import { AXES } from "../../domain/cuts";
import { typedNumber } from "../../domain/figures";
import { type Vec3, turned } from "../../domain/vectors";

export function TurnBy({ up, onTake }: { up: Vec3; onTake: (up: Vec3) => void }) {
  const [text, setText] = useState("5");
  const angle = typedNumber(text);
  const good = Number.isFinite(angle) && angle !== 0 && Math.abs(angle) <= 180;
  return (
    <span className="narrow flex items-center gap-1 text-second" data-testid="turn-by">
      turn by
      <input
        aria-label="Turn by, degrees"
        inputMode="decimal"
        value={text}
        onChange={(e) => setText(e.target.value)}
        className="figure w-12 border border-bark bg-paper px-1 text-right text-ink"
      />
      ° about
      {Object.entries(AXES).map(([name, axis]) => (
        <button
          key={name}
          type="button"
          disabled={!good}
          aria-label={`Turn about ${name}`}
          onClick={() => onTake(turned(up, axis, angle))}
          className="border border-bark px-1.5 text-ink hover:bg-raised disabled:text-second"
        >
          {name}
        </button>
      ))}
    </span>
  );
}
