/** Specimens that give with time, both on logarithms, each line named at its end. Props in, events out. */
import { Grid } from "./Grid";
import { useSize } from "./size";

export interface DriftLine {
  id: string;
  name: string;
  /** h, mm. */
  points: readonly (readonly [number, number])[];
  fit: readonly (readonly number[])[];
}

interface Props {
  lines: readonly DriftLine[];
  at: string | null;
  onLine: (id: string) => void;
}

const PAD = { left: 46, right: 96, top: 22, foot: 32 };
const HOURS = [
  [1, "1 h"],
  [10, "10 h"],
  [24, "1 d"],
  [168, "1 w"],
  [720, "1 mo"],
  [8766, "1 y"],
  [87660, "10 y"],
] as const;
const GIVES = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];

export function Drift({ lines, at, onLine }: Props) {
  const [box, size] = useSize({ width: 560, height: 230 });
  const all = lines.flatMap((l) => l.points);
  if (all.length === 0) return <div ref={box} className="h-full w-full" />;
  const end = Math.max(...all.map(([h]) => h), 24) * 1.3;
  const begin = Math.min(...all.map(([h]) => h), 1);
  const low = Math.min(...all.map(([, g]) => g)) / 1.15;
  const high = Math.max(...all.map(([, g]) => g)) * 1.15;
  const px = (h: number) =>
    PAD.left + (Math.log(h / begin) / Math.log(end / begin)) * (size.width - PAD.left - PAD.right);
  const py = (g: number) =>
    size.height - PAD.foot - (Math.log(g / low) / Math.log(high / low)) * (size.height - PAD.foot - PAD.top);
  // Names stand beside the ends of their lines, never on one another.
  const ends = lines
    .flatMap((l) => (l.points.at(-1) ? [{ id: l.id, y: py(l.points.at(-1)?.[1] ?? 1) + 4 }] : []))
    .sort((a, b) => a.y - b.y);
  const named = new Map<string, number>();
  let above = -Infinity;
  for (const { id, y } of ends) named.set(id, (above = Math.max(y, above + 13)));
  return (
    <div ref={box} className="h-full w-full overflow-hidden" data-testid="drift">
      <svg width={size.width} height={size.height} className="block" role="img" aria-label="Give over time">
        <Grid
          size={size}
          pad={PAD}
          across={HOURS.filter(([h]) => h >= begin && h <= end).map(([h, words]) => ({ at: px(h), words }))}
          up={GIVES.filter((g) => g >= low && g <= high).map((g) => ({ at: py(g), words: String(g) }))}
          y="gives, mm"
        />
        {lines.map((l) => {
          const ink = l.id === at ? "var(--color-crown)" : "var(--color-bark)";
          const last = l.points.at(-1);
          const path = l.fit.map((p, i) => `${i ? "L" : "M"}${px(p[0] ?? 1)} ${py(p[1] ?? 1)}`).join("");
          return (
            <g key={l.id} className="cursor-pointer" onClick={() => onLine(l.id)} data-line={l.name}>
              {path && <path d={path} fill="none" stroke={ink} strokeWidth="1.4" />}
              {l.points.map(([h, g], i) => (
                <circle key={i} cx={px(h)} cy={py(g)} r="3.2" fill={ink} />
              ))}
              {last && (
                <text x={px(last[0]) + 7} y={named.get(l.id) ?? 0} className="narrow text-[11px]" fill={ink}>
                  {l.name.slice(0, 18)}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
