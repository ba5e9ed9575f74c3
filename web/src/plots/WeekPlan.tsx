/** The farm's week: a column a machine, time running down, hours of hands as a band behind, a notch at every visit. */
import { plateKey, wallClock } from "../domain/week";

interface Run {
  order: string;
  number: number;
  of: number;
  copies: number;
  part: string;
  machine: string;
  start_s: number;
  begin_s: number;
  end_s: number;
  free_s: number;
  late_s: number;
  pinned: boolean;
  visits: readonly { at_s: number; what: string }[];
}

interface Props {
  week: {
    zero: string;
    now_s: number;
    windows: readonly (readonly number[])[];
    machines: readonly { key: string; name: string; model_name: string; out: boolean }[];
    runs: readonly Run[];
  };
  /** Days that are shown. */
  days: number;
  width: number;
  /** Key of the plate that is looked at. */
  here: string | null;
  onHere: (plate: string | null) => void;
}

const DAY = 86_400;
const HEAD = 34;
const LEFT = 64;
const MOST_WIDE = 150;
/** Height of a day where a week is shown, and of one by itself. */
const TALL = { 7: 92, 1: 560 } as const;

export function WeekPlan({ week, days, width, here, onHere }: Props) {
  const tall = days === 1 ? TALL[1] : TALL[7];
  const first = days === 1 ? Math.floor(week.now_s / DAY) * DAY : 0;
  const y = (s: number) => HEAD + ((s - first) / DAY) * tall;
  const high = HEAD + days * tall + 8;
  const wide = Math.max(44, Math.min(MOST_WIDE, (width - LEFT - 8) / Math.max(week.machines.length, 1)));
  const full = LEFT + wide * week.machines.length;
  const end = first + days * DAY;
  const column = new Map(week.machines.map((m, i) => [m.key, LEFT + i * wide]));
  const within = (a: number, b: number) => b > first && a < end;
  return (
    <svg width={Math.max(full, 200)} height={high} role="group" aria-label="Plan of the week" data-testid="week-plan">
      <defs>
        <pattern id="held" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line y2="5" stroke="var(--color-second)" strokeWidth="1.2" />
        </pattern>
        <clipPath id="span">
          <rect x="0" y={HEAD} width={full + 4} height={days * tall} />
        </clipPath>
      </defs>
      <g clipPath="url(#span)">
        {week.windows
          .filter(([a, b]) => within(a ?? 0, b ?? 0))
          .map(([a, b]) => (
            <rect
              key={a}
              x={LEFT}
              y={y(a ?? 0)}
              width={full - LEFT}
              height={y(b ?? 0) - y(a ?? 0)}
              fill="var(--color-rail)"
              data-testid="hands-there"
            />
          ))}
      </g>
      {Array.from({ length: days }, (_, d) => first + d * DAY).map((s) => (
        <g key={s}>
          <line x1={LEFT - 6} x2={full} y1={y(s)} y2={y(s)} stroke="var(--color-rule)" />
          <text x="0" y={y(s) + 12} className="narrow" fontSize="11.5" fill="var(--color-second)">
            {wallClock(week.zero, s).day}
          </text>
          {(days === 1 ? [3, 6, 9, 12, 15, 18, 21] : [12]).map((h) => (
            <text key={h} x={LEFT - 10} y={y(s + h * 3600) + 4} fontSize="10.5" textAnchor="end" className="figure">
              {String(h).padStart(2, "0")}:00
            </text>
          ))}
        </g>
      ))}
      {week.machines.map((m) => {
        const x = column.get(m.key) ?? 0;
        return (
          <g key={m.key} opacity={m.out ? 0.4 : 1}>
            <text x={x + 4} y="13" fontSize="12.5" fontWeight="600">
              {m.name.slice(0, Math.floor(wide / 7))}
            </text>
            <text x={x + 4} y="27" fontSize="11" className="narrow" fill="var(--color-second)">
              {(m.out ? "out" : m.model_name).slice(0, Math.floor(wide / 6))}
            </text>
            <line x1={x} x2={x} y1={HEAD} y2={high - 8} stroke="var(--color-rule)" />
          </g>
        );
      })}
      <g clipPath="url(#span)">
        {week.runs
          .filter((r) => within(r.start_s, r.free_s))
          .map((run) => {
            const x = (column.get(run.machine) ?? 0) + 5;
            const [top, last, free] = [y(run.start_s), y(run.end_s), y(run.free_s)];
            const key = plateKey(run);
            const wanted = key === here;
            const w = wide - 9;
            const printing = run.begin_s <= week.now_s && week.now_s < run.end_s;
            const words = `${run.copies} ${run.part}, plate ${run.number + 1} of ${run.of}`;
            return (
              <g
                key={key}
                role="button"
                tabIndex={0}
                aria-label={words}
                aria-pressed={wanted}
                data-testid="plate-run"
                className="cursor-pointer"
                onClick={() => onHere(wanted ? null : key)}
                onKeyDown={(e) => {
                  if (e.key !== "Enter" && e.key !== " ") return;
                  e.preventDefault();
                  onHere(wanted ? null : key);
                }}
              >
                <rect
                  x={x}
                  y={top}
                  width={w}
                  height={Math.max(last - top, 2)}
                  fill={wanted ? "var(--color-lit)" : "var(--color-raised)"}
                  stroke="var(--color-ink)"
                  strokeWidth={wanted ? 2 : 1.2}
                />
                {free > last + 1 && (
                  <rect x={x} y={last} width={w} height={free - last} fill="url(#held)" stroke="var(--color-second)" />
                )}
                {run.visits.map((v) => (
                  <path
                    key={`${v.at_s}${v.what}`}
                    d={`M${x - 1} ${y(v.at_s) - 4}l7 4l-7 4z`}
                    fill="var(--color-ink)"
                    data-testid="hands-notch"
                  />
                ))}
                {run.late_s > 0 && (
                  <line x1={x} x2={x + w} y1={free} y2={free} stroke="var(--color-crown)" strokeWidth="3" />
                )}
                {printing && (
                  <line
                    x1={x}
                    x2={x + w}
                    y1={y(week.now_s)}
                    y2={y(week.now_s)}
                    stroke="var(--color-moss)"
                    strokeWidth="3"
                  />
                )}
                {last - top > 15 && (
                  <text x={x + 9} y={top + 13} fontSize="11.5" className="narrow">
                    <tspan className="figure">{run.copies}</tspan>{" "}
                    {run.part.slice(0, Math.max(3, Math.floor((w - 30) / 5.6)))}
                  </text>
                )}
                {run.pinned && (
                  <circle cx={x + w - 7} cy={top + 8} r="3.2" fill="var(--color-ink)" data-testid="pinned">
                    <title>pinned</title>
                  </circle>
                )}
              </g>
            );
          })}
        {within(week.now_s, week.now_s) && (
          <line
            x1={LEFT - 6}
            x2={full}
            y1={y(week.now_s)}
            y2={y(week.now_s)}
            stroke="var(--color-moss)"
            strokeDasharray="5 3"
            data-testid="now"
          />
        )}
      </g>
    </svg>
  );
}
