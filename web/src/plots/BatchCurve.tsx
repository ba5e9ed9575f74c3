/** Copies per plate along the bottom; reserve with its band, good parts a day and cost of a part as three strips, both modes. */
import { type Curve, MODES, MODE_WORDS, type Mode, failing, nearest, stepFor } from "../domain/batch";
import { figure } from "../domain/figures";
import { useSize } from "./size";

interface Props {
  curves: Readonly<Record<Mode, Curve>>;
  mode: Mode;
  copies: number;
  best: { mode: Mode; copies: number } | null;
  /** Why no reserve is drawn; empty where it is. */
  unknown: string;
  currency: string;
  onPick: (copies: number) => void;
}

const LEFT = 64;
const RIGHT = 14;
const FOOT = 24;
const GAP = 12;
const STRIPS = [
  { key: "reserve", name: "reserve", unit: "", digits: 2 },
  { key: "per_day", name: "good parts", unit: "a day", digits: 0 },
  { key: "cost", name: "cost", unit: "", digits: 2 },
] as const;
const DASH: Readonly<Record<Mode, string | undefined>> = { together: undefined, sequential: "5 3" };
const MOST_RESERVE = 4;

export function BatchCurve({ curves, mode, copies, best, unknown, currency, onPick }: Props) {
  const [box, size] = useSize({ width: 700, height: 300 });
  const wide = Math.max(100, size.width - LEFT - RIGHT);
  const tall = Math.max(24, (size.height - FOOT - 2 * GAP - 8) / 3);
  const most = Math.max(...MODES.map((m) => curves[m].copies.at(-1) ?? 1), 2);
  const x = (n: number) => LEFT + ((n - 0.5) / most) * wide;
  const own = curves[mode];
  const limit = own.copies.at(-1) ?? 1;
  const step = Math.max(1, stepFor(most, Math.floor(wide / 52)));
  const pick = (n: number) => onPick(Math.max(1, Math.min(limit, n)));
  const here = nearest(own.copies, copies);
  return (
    <div
      ref={box}
      className="h-full w-full overflow-hidden"
      tabIndex={0}
      role="slider"
      aria-label={`Batch curve: copies per plate, ${MODE_WORDS[mode]}`}
      aria-valuemin={1}
      aria-valuemax={limit}
      aria-valuenow={copies}
      aria-valuetext={`${copies} ${MODE_WORDS[mode]}: reserve ${figure(own.reserve[here], 2)}, ${figure(own.per_day[here], 0)} good parts a day, cost ${figure(own.cost[here], 2)}`}
      data-testid="batch-curve"
      onKeyDown={(e) => {
        const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
        if (by) pick(copies + by);
        else if (e.key === "Home") pick(1);
        else if (e.key === "End") pick(limit);
        else return;
        e.preventDefault();
      }}
    >
      <svg
        width={size.width}
        height={size.height}
        className="block cursor-pointer"
        onPointerDown={(e) => {
          const at = e.clientX - e.currentTarget.getBoundingClientRect().left;
          pick(Math.round(((at - LEFT) / wide) * most + 0.5));
        }}
      >
        <defs>
          <pattern id="falls-short" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2="6" stroke="var(--color-crown)" strokeWidth="1.2" opacity="0.55" />
          </pattern>
        </defs>
        {STRIPS.map((strip, i) => {
          const top = 4 + i * (tall + GAP);
          const values = MODES.flatMap((m) => curves[m][strip.key]).filter((v): v is number => v !== null);
          const high =
            strip.key === "reserve" ? Math.min(MOST_RESERVE, Math.max(1.2, ...values)) : Math.max(...values, 0);
          const y = (v: number) => top + tall - (Math.min(v, high) / Math.max(high, 1e-9)) * (tall - 6);
          return (
            <g key={strip.key}>
              <line
                x1={LEFT}
                x2={LEFT + wide}
                y1={top + tall}
                y2={top + tall}
                stroke="var(--color-ink)"
                strokeWidth="1"
              />
              <text x={LEFT - 8} y={top + 12} textAnchor="end" className="narrow fill-ink text-[12px] font-semibold">
                {strip.name}
              </text>
              {(strip.unit || strip.key === "cost") && (
                <text x={LEFT - 8} y={top + 25} textAnchor="end" className="narrow fill-second text-[11px]">
                  {strip.key === "cost" ? `${currency} a part` : strip.unit}
                </text>
              )}
              <text x={LEFT - 8} y={top + tall} textAnchor="end" className="figure fill-second text-[11px]">
                0
              </text>
              {high > 0 && strip.key !== "reserve" && tall > 56 && (
                <text x={LEFT - 8} y={top + 40} textAnchor="end" className="figure fill-second text-[11px]">
                  {figure(high, strip.digits)}
                </text>
              )}
              {strip.key === "reserve" && (
                <Reserve curve={own} x={x} y={y} top={top} tall={tall} wide={wide} most={most} unknown={unknown} />
              )}
              {MODES.map((m) => (
                <polyline
                  key={m}
                  points={curves[m].copies
                    .map((n, k) => [n, curves[m][strip.key][k]] as const)
                    .filter((p): p is readonly [number, number] => p[1] !== null && p[1] !== undefined)
                    .map(([n, v]) => `${x(n)},${y(v)}`)
                    .join(" ")}
                  fill="none"
                  stroke={m === mode ? "var(--color-moss)" : "var(--color-bark)"}
                  strokeWidth={m === mode ? 2 : 1.2}
                  strokeDasharray={DASH[m]}
                />
              ))}
              {strip.key === "per_day" &&
                own.copies.map((n, k) =>
                  own.at_hand[k] ? null : (
                    <line
                      key={n}
                      x1={x(n)}
                      x2={x(n)}
                      y1={top + tall - 5}
                      y2={top + tall}
                      stroke="var(--color-ochre-mark)"
                      strokeWidth="2.4"
                    />
                  ),
                )}
              <Now
                at={x(copies)}
                y={y}
                value={own[strip.key][here] ?? null}
                digits={strip.digits}
                top={top}
                right={LEFT + wide}
              />
            </g>
          );
        })}
        <line
          x1={x(copies)}
          x2={x(copies)}
          y1="2"
          y2={size.height - FOOT}
          stroke="var(--color-moss)"
          strokeWidth="1.4"
        />
        {best && (
          <g data-testid="best-point">
            <circle cx={x(best.copies)} cy={size.height - FOOT + 1} r="4.5" fill="var(--color-ink)" />
          </g>
        )}
        {Array.from({ length: Math.floor(most / step) }, (_, i) => (i + 1) * step).map((n) => (
          <text key={n} x={x(n)} y={size.height - 6} textAnchor="middle" className="figure fill-second text-[11px]">
            {n}
          </text>
        ))}
        <text x={LEFT - 8} y={size.height - 6} textAnchor="end" className="narrow fill-second text-[11px]">
          copies
        </text>
      </svg>
    </div>
  );
}

interface ReserveProps {
  curve: Curve;
  x: (n: number) => number;
  y: (v: number) => number;
  top: number;
  tall: number;
  wide: number;
  most: number;
  unknown: string;
}

/** The required line at 1, the band below the reserve, and hatched where its lower edge falls short. */
function Reserve({ curve, x, y, top, tall, wide, most, unknown }: ReserveProps) {
  if (unknown)
    return (
      <text x={LEFT + 10} y={top + tall / 2 + 4} className="fill-second text-[12.5px]">
        {unknown}
      </text>
    );
  const half = wide / most / 2;
  const band = curve.copies.flatMap((n, k) => {
    const [value, low] = [curve.reserve[k], curve.low[k]];
    return value == null || low == null ? [] : [[x(n), y(value), y(low)] as const];
  });
  return (
    <>
      {failing(curve.low).map(([from, to]) => (
        <rect
          key={from}
          x={x(curve.copies[from] ?? 1) - half}
          width={x(curve.copies[to] ?? 1) - x(curve.copies[from] ?? 1) + 2 * half}
          y={top}
          height={tall}
          fill="url(#falls-short)"
          data-testid="falls-short"
        />
      ))}
      {band.length > 1 && (
        <polygon
          points={[...band.map(([a, v]) => `${a},${v}`), ...band.toReversed().map(([a, , l]) => `${a},${l}`)].join(" ")}
          fill="var(--color-moss)"
          opacity="0.22"
        />
      )}
      <line x1={LEFT} x2={LEFT + wide} y1={y(1)} y2={y(1)} stroke="var(--color-crown)" strokeWidth="1.2" />
      <text x={LEFT - 8} y={y(1) + 4} textAnchor="end" className="figure fill-crown text-[11px]">
        1
      </text>
    </>
  );
}

interface NowProps {
  at: number;
  y: (v: number) => number;
  value: number | null;
  digits: number;
  top: number;
  right: number;
}

/** The value at the number of copies that is looked at. */
function Now({ at, y, value, digits, top, right }: NowProps) {
  if (value === null) return null;
  const before = at > right - 60;
  const above = y(value) - 5 > top + 10;
  return (
    <>
      <circle cx={at} cy={y(value)} r="3.4" fill="var(--color-moss)" stroke="var(--color-raised)" strokeWidth="1.2" />
      <text
        x={at + (before ? -8 : 8)}
        y={y(value) + (above ? -5 : 15)}
        textAnchor={before ? "end" : "start"}
        className="figure fill-ink text-[12px] font-semibold"
        stroke="var(--color-paper)"
        strokeWidth="3"
        paintOrder="stroke"
      >
        {figure(value, digits)}
      </text>
    </>
  );
}
