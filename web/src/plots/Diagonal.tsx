/** What was measured over what was predicted, both on logarithms, with the diagonal on which they agree. Props in. */
import { Grid } from "./Grid";
import { useSize } from "./size";

export interface Dot {
  id: string;
  predicted: number;
  measured: number;
  /** A square breaks in the layers, a circle between them; hollow: not averaged. */
  group: "across" | "along";
  counts: boolean;
  held: boolean;
  name: string;
}

interface Props {
  dots: readonly Dot[];
  at: string | null;
  onDot: (id: string) => void;
}

const PAD = { left: 46, right: 14, top: 22, foot: 34 };
const MARKS = [0.1, 0.2, 0.3, 0.5, 0.7, 1, 1.5, 2, 3, 5, 7, 10, 20, 50, 100];

export function Diagonal({ dots, at, onDot }: Props) {
  const [box, size] = useSize({ width: 480, height: 360 });
  const all = dots.flatMap((d) => [d.predicted, d.measured]);
  const low = Math.min(...all, 0.8) / 1.25;
  const high = Math.max(...all, 1.25) * 1.25;
  const span = Math.log(high / low);
  const px = (v: number) => PAD.left + (Math.log(v / low) / span) * (size.width - PAD.left - PAD.right);
  const py = (v: number) => size.height - PAD.foot - (Math.log(v / low) / span) * (size.height - PAD.foot - PAD.top);
  const marks = MARKS.filter((m) => m >= low && m <= high);
  return (
    <div ref={box} className="h-full w-full overflow-hidden" data-testid="diagonal">
      <svg width={size.width} height={size.height} className="block" role="img" aria-label="Measured over predicted">
        <Grid
          size={size}
          pad={PAD}
          across={marks.map((m) => ({ at: px(m), words: `×${m}` }))}
          up={marks.map((m) => ({ at: py(m), words: `×${m}` }))}
          x="predicted, times the load"
          y="measured"
        />
        <line x1={px(low)} y1={py(low)} x2={px(high)} y2={py(high)} stroke="var(--color-ink)" strokeWidth="1.4" />
        {dots.map((d) => {
          const look = {
            fill: d.counts ? "var(--color-bark)" : "var(--color-paper)",
            stroke: d.id === at ? "var(--color-crown)" : "var(--color-bark)",
            strokeWidth: d.id === at ? 2.4 : 1.4,
            className: "cursor-pointer",
            onClick: () => onDot(d.id),
          };
          const [x, y] = [px(d.predicted), py(d.measured)];
          return (
            <g key={d.id} data-dot={d.id}>
              <title>{d.name}</title>
              {d.held ? (
                <path d={`M${x - 5} ${y + 4}L${x} ${y - 5}L${x + 5} ${y + 4}Z`} {...look} />
              ) : d.group === "across" ? (
                <circle cx={x} cy={y} r={4.5} {...look} />
              ) : (
                <rect x={x - 4} y={y - 4} width={8} height={8} {...look} />
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
