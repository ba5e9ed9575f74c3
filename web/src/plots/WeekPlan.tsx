/** The farm's week: a column a machine, time running down, hours of hands as a band behind, a notch at every visit. */
import { useRef, useState } from "react";

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
  print: { state: string; layer: number; layers: number; silent: boolean } | null;
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
  /** Pins a plate to a machine from a time on; null for those who may not. */
  onMove: ((plate: string, machine: string, start: number) => void) | null;
}

interface Drag {
  key: string;
  x: number;
  y: number;
  dx: number;
  dy: number;
}

/** Pixels from which a press is a drag. */
const DRAGGED = 6;
const STEP_S = 300;
/** By which the keys move a plate. */
const KEY_S = 1800;

const DAY = 86_400;
const HEAD = 34;
const LEFT = 64;
const MOST_WIDE = 150;
const KEYS: Record<string, readonly [number, number] | undefined> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** Colour of what a plate's machine says; moss where all is well. */
const MARKS: Record<string, string | undefined> = {
  waiting: "ochre-mark",
  paused: "ochre-mark",
  finished: "ochre-mark",
  failed: "crown",
  cancelled: "crown",
};
const told = (run: Run): string => (run.print ? `, ${run.print.silent ? "no answer" : run.print.state}` : "");
/** Height of a day where a week is shown, and of one by itself. */
const TALL = { 7: 92, 1: 560 } as const;

export function WeekPlan({ week, days, width, here, onHere, onMove }: Props) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const dragged = useRef(false);
  const tall = days === 1 ? TALL[1] : TALL[7];
  const first = days === 1 ? Math.floor(week.now_s / DAY) * DAY : 0;
  const y = (s: number) => HEAD + ((s - first) / DAY) * tall;
  const high = HEAD + days * tall + 8;
  const wide = Math.max(44, Math.min(MOST_WIDE, (width - LEFT - 8) / Math.max(week.machines.length, 1)));
  const full = LEFT + wide * week.machines.length;
  const end = first + days * DAY;
  const column = new Map(week.machines.map((m, i) => [m.key, LEFT + i * wide]));
  const within = (a: number, b: number) => b > first && a < end;
  const move = (run: Run, columns: number, seconds: number) => {
    const at = week.machines.findIndex((m) => m.key === run.machine);
    const machine = week.machines[Math.min(Math.max(at + columns, 0), week.machines.length - 1)];
    const start = Math.round((run.start_s + seconds) / STEP_S) * STEP_S;
    if (machine && onMove && !run.print) onMove(plateKey(run), machine.key, Math.max(start, week.now_s));
  };
  const drop = (run: Run) => {
    if (drag && Math.hypot(drag.dx, drag.dy) > DRAGGED) {
      dragged.current = true;
      move(run, Math.round(drag.dx / wide), (drag.dy / tall) * DAY);
    }
    setDrag(null);
  };
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
            const words = `${run.copies} ${run.part}, plate ${run.number + 1} of ${run.of}${told(run)}`;
            const moves = drag?.key === key && Math.hypot(drag.dx, drag.dy) > DRAGGED;
            const mayMove = onMove !== null && run.print === null;
            return (
              <g
                key={key}
                role="button"
                tabIndex={0}
                aria-label={words}
                aria-pressed={wanted}
                data-testid="plate-run"
                data-state={run.print?.state ?? "planned"}
                className={mayMove ? "cursor-grab touch-none" : "cursor-pointer"}
                transform={moves ? `translate(${drag.dx} ${drag.dy})` : undefined}
                opacity={moves ? 0.7 : 1}
                onPointerDown={(e) => {
                  dragged.current = false;
                  if (!mayMove || e.button !== 0) return;
                  e.currentTarget.setPointerCapture(e.pointerId);
                  setDrag({ key, x: e.clientX, y: e.clientY, dx: 0, dy: 0 });
                }}
                onPointerMove={(e) => {
                  if (drag?.key === key) setDrag({ ...drag, dx: e.clientX - drag.x, dy: e.clientY - drag.y });
                }}
                onPointerUp={() => drop(run)}
                onPointerCancel={() => setDrag(null)}
                onClick={() => {
                  if (!dragged.current) onHere(wanted ? null : key);
                }}
                onKeyDown={(e) => {
                  const way = e.shiftKey ? KEYS[e.key] : undefined;
                  if (way) move(run, way[0], way[1] * KEY_S);
                  else if (e.key === "Enter" || e.key === " ") onHere(wanted ? null : key);
                  else return;
                  e.preventDefault();
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
                {run.print && run.print.layers > 0 && (
                  <rect
                    x={x + 1}
                    y={top + 1}
                    width={w - 2}
                    height={Math.max(0, ((last - top - 2) * run.print.layer) / run.print.layers)}
                    fill="var(--color-lichen)"
                    opacity="0.45"
                    data-testid="printed"
                  />
                )}
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
                {run.print && (
                  <line
                    x1={x}
                    x2={x}
                    y1={top}
                    y2={free}
                    stroke={`var(--color-${MARKS[run.print.state] ?? "moss"})`}
                    strokeWidth="4"
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
