/** What was measured over what was predicted, both on logarithms, with the diagonal on which they agree. Props in. */
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
        {marks.map((m) => (
          <g key={m}>
            <line
              x1={px(m)}
              x2={px(m)}
              y1={PAD.top}
              y2={size.height - PAD.foot}
              stroke="var(--color-rule)"
              strokeWidth="0.8"
            />
            <line
              x1={PAD.left}
              x2={size.width - PAD.right}
              y1={py(m)}
              y2={py(m)}
              stroke="var(--color-rule)"
              strokeWidth="0.8"
            />
            <text
              x={px(m)}
              y={size.height - PAD.foot + 13}
              textAnchor="middle"
              className="figure fill-second text-[11px]"
            >
              ×{m}
            </text>
            <text x={PAD.left - 5} y={py(m) + 4} textAnchor="end" className="figure fill-second text-[11px]">
              ×{m}
            </text>
          </g>
        ))}
        <line x1={px(low)} y1={py(low)} x2={px(high)} y2={py(high)} stroke="var(--color-ink)" strokeWidth="1.4" />
        <text
          x={size.width - PAD.right}
          y={size.height - 5}
          textAnchor="end"
          className="narrow fill-second text-[11px]"
        >
          predicted, times the load
        </text>
        <text x={4} y={13} className="narrow fill-second text-[11px]">
          measured
        </text>
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
