/** Readings and what was fitted to them, or a curve: points, a line, the place of a break. Props in. */
import { figure } from "../domain/figures";
import { Grid } from "./Grid";
import { useSize } from "./size";

export interface ScatterPoint {
  x: number;
  y: number;
  row: number;
  counts: boolean;
}

interface Props {
  x: string;
  y: string;
  points: readonly ScatterPoint[];
  line: readonly (readonly number[])[];
  label: string;
  /** A row that is looked at. */
  at?: number | null;
  onPoint?: (row: number) => void;
}

const PAD = { left: 54, right: 14, top: 24, foot: 36 };
const STEPS = [1, 2, 2.5, 5, 10];

/** Ticks at round numbers, four to six of them. */
function ticks(low: number, high: number): number[] {
  const span = Math.max(high - low, 1e-12);
  const power = 10 ** Math.floor(Math.log10(span / 4));
  const step = (STEPS.find((s) => span / (s * power) <= 6) ?? 10) * power;
  const first = Math.ceil(low / step - 1e-9);
  return Array.from({ length: Math.floor(high / step + 1e-9) - first + 1 }, (_, i) => (first + i) * step);
}

/** The fewest that tell the ticks apart. */
const digits = (marks: readonly number[]) =>
  [0, 1, 2, 3].find((d) => marks.every((m) => Math.abs(m * 10 ** d - Math.round(m * 10 ** d)) < 1e-6)) ?? 4;

export function Scatter({ x, y, points, line, label, at = null, onPoint }: Props) {
  const [box, size] = useSize({ width: 420, height: 220 });
  const xs = [...points.map((p) => p.x), ...line.map((p) => p[0] ?? 0)];
  const ys = [...points.map((p) => p.y), ...line.map((p) => p[1] ?? 0)];
  if (xs.length === 0) return <div ref={box} className="h-full w-full" />;
  const padded = (values: readonly number[]) => {
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const room = 0.06 * (high - low || Math.abs(high) || 1);
    return [low - room, high + room] as const;
  };
  const [x0, x1] = padded(xs);
  const [y0, y1] = padded(ys);
  const px = (v: number) => PAD.left + ((v - x0) / (x1 - x0)) * (size.width - PAD.left - PAD.right);
  const py = (v: number) => size.height - PAD.foot - ((v - y0) / (y1 - y0)) * (size.height - PAD.foot - PAD.top);
  const [across, up] = [ticks(x0, x1), ticks(y0, y1)];
  const path = line.map((p, i) => `${i ? "L" : "M"}${px(p[0] ?? 0).toFixed(1)} ${py(p[1] ?? 0).toFixed(1)}`).join("");
  return (
    <div ref={box} className="h-full w-full overflow-hidden">
      <svg width={size.width} height={size.height} className="block" role="img" aria-label={label}>
        <Grid
          size={size}
          pad={PAD}
          across={across.map((v) => ({ at: px(v), words: figure(v, digits(across)) }))}
          up={up.map((v) => ({ at: py(v), words: figure(v, digits(up)) }))}
          x={x}
          y={y}
        />
        {path && <path d={path} fill="none" stroke="var(--color-moss)" strokeWidth="1.6" data-testid="fitted-line" />}
        {points.map((p) => (
          <circle
            key={p.row}
            cx={px(p.x)}
            cy={py(p.y)}
            r={p.row === at ? 5.5 : 3.6}
            fill={p.counts ? "var(--color-bark)" : "var(--color-paper)"}
            stroke={p.counts ? "var(--color-bark)" : "var(--color-crown)"}
            strokeWidth={p.counts ? 0 : 1.6}
            data-point={p.row}
            data-counts={p.counts}
            onClick={() => onPoint?.(p.row)}
            className={onPoint ? "cursor-pointer" : undefined}
          />
        ))}
      </svg>
    </div>
  );
}
