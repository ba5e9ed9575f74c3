/** The gauge strip: how much wall there is of each thickness, against the comb of whole lines. Props in, events out. */
import { figure, measure } from "../domain/figures";
import { rebinned, stripEnd } from "../domain/walls";
import { useSize } from "./size";

export interface Comb {
  widths_mm: readonly number[];
  gaps_mm: readonly (readonly number[])[];
  least_mm: number;
  double_mm: number;
  heavy_mm: number;
}

interface Props {
  edges: readonly number[];
  areas: readonly number[];
  comb: Comb;
  /** The thicknesses that are lit, mm. */
  lit: readonly [number, number] | null;
  onLight: (range: [number, number] | null) => void;
  /** A thickness that is marked: the zone looked at. */
  at?: number | null;
}

const LEFT = 52;
const RIGHT = 14;
const TOP = 34;
const FOOT = 24;
const BARS = 90;
const TICKS = [0.25, 0.5, 1, 2, 5, 10, 20];

export function GaugeStrip({ edges, areas, comb, lit, onLight, at = null }: Props) {
  const [box, size] = useSize({ width: 800, height: 190 });
  const end = stripEnd(edges, areas, comb.heavy_mm);
  const bars = rebinned(edges, areas, end, BARS);
  // What is thicker than the strip is long stands in the last bar, drawn open: it lies beyond.
  const beyond = areas.reduce((a, area, i) => a + (((edges[i] ?? 0) + (edges[i + 1] ?? 0)) / 2 >= end ? area : 0), 0);
  const past = (i: number) => beyond > 0 && i === BARS - 1;
  const paint = (on: boolean) => (on ? "var(--color-moss)" : "var(--color-bark)");
  const most = Math.max(...bars, 1e-9);
  const wide = Math.max(80, size.width - LEFT - RIGHT);
  const floor = Math.max(TOP + 30, size.height - FOOT);
  const x = (mm: number) => LEFT + (Math.min(mm, end) / end) * wide;
  const tall = (area: number) => (area > 0 ? Math.max(1.5, Math.sqrt(area / most) * (floor - TOP)) : 0);
  const rangeOf = (i: number): [number, number] => [
    (i * end) / BARS,
    i === BARS - 1 ? Infinity : ((i + 1) * end) / BARS,
  ];
  const step = TICKS.find((s) => (s / end) * wide > 46) ?? 50;
  const current = lit ? bars.findIndex((_, i) => rangeOf(i)[0] >= lit[0] - 1e-9) : -1;
  const go = (by: number) => {
    for (let i = current + by; i >= 0 && i < BARS; i += by) if ((bars[i] ?? 0) > 0) return onLight(rangeOf(i));
  };
  const bands: readonly [number, number, string][] = [
    [0, comb.least_mm, "vanishes"],
    [comb.least_mm, comb.double_mm, "one line"],
    [comb.heavy_mm, end, "sparse core"],
  ];
  return (
    <div
      ref={box}
      className="h-full w-full overflow-hidden"
      tabIndex={0}
      role="slider"
      aria-label="Gauge strip: area of wall by thickness"
      aria-valuenow={current < 0 ? 0 : current + 1}
      aria-valuetext={
        lit ? `${figure(lit[0], 2)} mm and up, ${measure(bars[current])} mm² of wall` : "no thickness is lit"
      }
      data-testid="gauge-strip"
      onKeyDown={(e) => {
        if (e.key === "ArrowRight") go(1);
        else if (e.key === "ArrowLeft") go(-1);
        else if (e.key === "Escape") onLight(null);
        else return;
        e.preventDefault();
      }}
    >
      <svg width={size.width} height={size.height} className="block">
        <defs>
          <pattern id="slit" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2="5" stroke="var(--color-ochre-mark)" strokeWidth="1.6" />
          </pattern>
        </defs>
        {comb.gaps_mm.map(([low = 0, high = 0], i) => (
          <rect
            key={i}
            x={x(low)}
            width={Math.max(0, x(high) - x(low))}
            y={TOP}
            height={floor - TOP}
            fill="url(#slit)"
            opacity="0.5"
            data-testid="slit"
          />
        ))}
        {bands.map(([low, high, words], i) => (
          <g key={words}>
            {i < 2 && (
              <rect
                x={x(low)}
                width={Math.max(0, x(high) - x(low))}
                y={TOP}
                height={floor - TOP}
                fill="var(--color-crown)"
                opacity={i === 0 ? 0.16 : 0.07}
              />
            )}
            {x(high) - x(low) > 46 && (
              <text
                x={(x(low) + x(high)) / 2}
                y={TOP - 4}
                textAnchor="middle"
                className="narrow fill-second text-[11px]"
              >
                {words}
              </text>
            )}
          </g>
        ))}
        {comb.widths_mm.map((w, i) => (
          <g key={i}>
            <line x1={x(w)} x2={x(w)} y1={16} y2={floor} stroke="var(--color-ink)" strokeWidth={i === 0 ? 0.6 : 1.2} />
            <text x={x(w)} y={12} textAnchor="middle" className="figure fill-ink text-[11px]">
              {i + 1}
            </text>
          </g>
        ))}
        <text x={LEFT - 6} y={12} textAnchor="end" className="narrow fill-second text-[11px]">
          lines
        </text>
        {bars.map((area, i) => {
          const [low, high] = rangeOf(i);
          const on = lit !== null && low < lit[1] && high > lit[0];
          return (
            <g
              key={i}
              onClick={() => onLight(on && lit[0] === low ? null : [low, high])}
              className="cursor-pointer"
              data-bar={area > 0 ? i : undefined}
            >
              <title>{`${figure(low, 2)} to ${Number.isFinite(high) ? figure(high, 2) : "more"} mm: ${measure(area)} mm²`}</title>
              <rect x={LEFT + (i * wide) / BARS} width={wide / BARS} y={TOP} height={floor - TOP} fill="transparent" />
              <rect
                x={LEFT + (i * wide) / BARS + 0.5}
                width={Math.max(1, wide / BARS - 1)}
                y={floor - tall(area)}
                height={tall(area)}
                fill={past(i) ? "none" : paint(on)}
                stroke={past(i) ? paint(on) : "none"}
                strokeWidth={past(i) ? 1.4 : 0}
              />
            </g>
          );
        })}
        {at !== null && at < end && <path d={`M ${x(at)} ${floor} l -5 8 h 10 z`} fill="var(--color-moss)" />}
        {at !== null && at >= end && (
          <path
            d={`M ${LEFT + wide + 10} ${floor + 5} l -8 -5 v 10 z`}
            fill="var(--color-moss)"
            data-testid="at-beyond"
          />
        )}
        {beyond > 0 && (
          <text
            x={LEFT + wide + 2}
            y={12}
            textAnchor="end"
            className="narrow fill-second text-[11px]"
            data-testid="beyond"
          >
            {figure(end, step < 1 ? 2 : 1)} mm and more: {measure(beyond)} mm² ▸
          </text>
        )}
        <line x1={LEFT} x2={LEFT + wide} y1={floor} y2={floor} stroke="var(--color-ink)" strokeWidth="1.2" />
        {Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step).map((mm) => (
          <g key={mm}>
            <line x1={x(mm)} x2={x(mm)} y1={floor} y2={floor + 4} stroke="var(--color-ink)" strokeWidth="0.8" />
            <text x={x(mm)} y={floor + 16} textAnchor="middle" className="figure fill-second text-[11px]">
              {figure(mm, step < 1 ? 2 : 0)}
            </text>
          </g>
        ))}
        <text x={LEFT - 22} y={floor + 16} textAnchor="end" className="narrow fill-second text-[11px]">
          mm
        </text>
        <text x={LEFT - 8} y={TOP + 8} textAnchor="end" className="figure fill-second text-[11px]">
          {measure(most)}
        </text>
        <text x={LEFT - 8} y={TOP + 20} textAnchor="end" className="narrow fill-second text-[11px]">
          mm²
        </text>
        <text x={LEFT - 8} y={(TOP + floor) / 2 + 4} textAnchor="end" className="figure fill-second text-[11px]">
          {measure(most / 4)}
        </text>
        <line x1={LEFT - 5} x2={LEFT} y1={TOP} y2={TOP} stroke="var(--color-ink)" strokeWidth="0.8" />
        <line
          x1={LEFT - 5}
          x2={LEFT}
          y1={(TOP + floor) / 2}
          y2={(TOP + floor) / 2}
          stroke="var(--color-ink)"
          strokeWidth="0.8"
        />
      </svg>
    </div>
  );
}
