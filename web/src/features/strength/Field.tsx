/** The field on the part: its scale, and a ring round the weakest place. */
import { CROWN, CROWN_PALE, RAISED } from "../../domain/palette";
import { RAMP } from "../../domain/ramp";

/** Rings the weakest place. */
export function Spot({ x, y, width, height }: { x: number; y: number; width: number; height: number }) {
  return (
    <svg className="pointer-events-none absolute inset-0" width={width} height={height} aria-hidden="true">
      <circle cx={width / 2 + x} cy={height / 2 + y} r="9" fill="none" stroke={RAISED} strokeWidth="4" />
      <circle cx={width / 2 + x} cy={height / 2 + y} r="9" fill="none" stroke={CROWN} strokeWidth="1.8" />
    </svg>
  );
}

export function FieldLegend({ field, waiting }: { field: boolean; waiting: boolean }) {
  if (!field)
    return waiting ? (
      <p className="pointer-events-none absolute top-3 left-3 bg-paper/85 pr-1 text-second">
        The field is drawn once this direction's own layers are solved.
      </p>
    ) : null;
  return (
    <div className="pointer-events-none absolute top-3 left-3 bg-paper/85 pr-1 text-[12px]" data-testid="field-legend">
      <p className="narrow text-second">share of the allowed strength that is used</p>
      <svg width="176" height="24" aria-hidden="true">
        <pattern id="over-limit" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill={CROWN_PALE} />
          <path d="M0 0 V5" stroke={CROWN} strokeWidth="5" />
        </pattern>
        {RAMP.map((c, i) => (
          <rect key={c} x={i * 18} width="18" height="10" fill={c} />
        ))}
        <rect x={126} width="24" height="10" fill="url(#over-limit)" />
        <rect x="0.5" y="0.5" width="149" height="9" fill="none" stroke="var(--color-ink)" />
        <text x="0" y="22" className="figure fill-ink text-[11px]">
          0
        </text>
        <text x="112" y="22" className="figure fill-ink text-[11px]">
          100 %
        </text>
        <text x="152" y="9" className="narrow fill-ink text-[11px]">
          fails
        </text>
      </svg>
    </div>
  );
}
