/** The part as a bored core: a strip as high as the part, with one track beside the other; any layer can be looked at. */
import { type ReactNode } from "react";

import { figure } from "../domain/figures";
import { useSize } from "./size";

export interface Track {
  name: string;
  unit: string;
  values: readonly number[];
  /** A second column, drawn as a line over the first. */
  over?: readonly number[];
  /** What the first column may reach; what lies beyond is drawn in crown. */
  limit?: number;
  colour: string;
  /** px; TRACK when left out. */
  wide?: number;
}

/** Something that reaches over a stretch of layers, drawn as a bar as long as its number. */
export interface Stretch {
  key: string;
  low: number;
  high: number;
  mm: number;
  colour: string;
  words: string;
  lit: boolean;
}

export interface Event {
  low: number;
  high: number;
  words: string;
}

export interface LayerLogProps {
  layer: number;
  first: number;
  count: number;
  height: number;
  tracks: readonly Track[];
  /** Left out: no track of spans. */
  stretches?: readonly Stretch[];
  events: readonly Event[];
  /** The layer that fails first, mm above the plate. */
  weakest?: number | null;
  at: number | null;
  onAt: (layer: number) => void;
  onStretch?: (key: string) => void;
  label: string;
  /** What the layer looked at is, in words: for those who hear the page. */
  reading: string;
}

const NO_STRETCHES: readonly Stretch[] = [];
const AXIS = 30;
const HEAD = 34;
const FOOT = 8;
const TRACK = 66;
const SPANS = 74;
/** px: a bar as long holds its number, a shorter one has it beside. */
const WRITTEN = 36;
const STEPS = [0.5, 1, 2, 4, 5, 10, 20, 40, 50, 100, 200];

/** px: a number is as high. */
const HIGH = 13;

/** The stretches that have their number beside them: those with room for it, the longest first where they lie over each other. */
function numbered(stretches: readonly Stretch[], y: (mm: number) => number): ReadonlySet<string> {
  const out = new Map<string, number>();
  for (const s of [...stretches].sort((a, b) => b.mm - a.mm)) {
    const at = (y(s.low) + y(s.high)) / 2;
    if (y(s.low) - y(s.high) >= HIGH && [...out.values()].every((other) => Math.abs(other - at) >= HIGH))
      out.set(s.key, at);
  }
  return new Set(out.keys());
}

export function LayerLog(props: LayerLogProps) {
  const { layer, first, count, height, tracks, events, weakest = null, at, onAt, onStretch } = props;
  const stretches = props.stretches ?? NO_STRETCHES;
  const [box, size] = useSize({ width: 330, height: 600 });
  const tall = Math.max(40, size.height - HEAD - FOOT);
  const y = (mm: number) => HEAD + tall * (1 - mm / height);
  const edges = tracks.reduce<number[]>((xs, t) => [...xs, (xs.at(-1) ?? AXIS) + (t.wide ?? TRACK)], [AXIS]);
  const spansAt = edges.at(-1) ?? AXIS;
  const eventsAt = spansAt + (props.stretches ? SPANS : 0);
  const longest = stretches.reduce((a, s) => Math.max(a, s.mm), 0);
  const written = numbered(stretches, y);
  const step = STEPS.find((s) => (s / height) * tall > 44) ?? 500;
  const ticks = Array.from({ length: Math.floor(height / step) + 1 }, (_, i) => i * step);
  const layerAt = (clientY: number) => {
    const top = box.current?.getBoundingClientRect().top ?? 0;
    const mm = height * (1 - (clientY - top - HEAD) / tall);
    return Math.max(0, Math.min(count - 1, Math.floor(mm / layer)));
  };
  const keys: Record<string, number> = {
    ArrowUp: 1,
    ArrowDown: -1,
    PageUp: 10,
    PageDown: -10,
    Home: -Infinity,
    End: Infinity,
  };
  const z = at === null ? null : first + at * layer;
  return (
    <div
      ref={box}
      className="relative h-full min-h-0 w-full touch-none overflow-hidden max-sm:h-[460px]"
      role="slider"
      aria-label={props.label}
      aria-orientation="vertical"
      aria-valuemin={1}
      aria-valuemax={count}
      aria-valuenow={(at ?? 0) + 1}
      aria-valuetext={props.reading}
      tabIndex={0}
      data-testid="layer-log"
      onPointerMove={(e) => onAt(layerAt(e.clientY))}
      onPointerDown={(e) => onAt(layerAt(e.clientY))}
      onKeyDown={(e) => {
        const by = keys[e.key];
        if (by === undefined) return;
        e.preventDefault();
        onAt(Math.max(0, Math.min(count - 1, (at ?? (by < 0 ? count : -1)) + by)));
      }}
    >
      <svg width={size.width} height={size.height} className="absolute inset-0" aria-hidden="true">
        {ticks.map((mm) => (
          <g key={mm}>
            <path d={`M${AXIS} ${y(mm)} H${size.width}`} stroke="var(--color-rule)" strokeWidth="0.8" />
            <text x={AXIS - 5} y={y(mm) + 4} textAnchor="end" className="figure fill-second text-[11px]">
              {figure(mm, step < 1 ? 1 : 0)}
            </text>
          </g>
        ))}
        {tracks.map((t, i) => (
          <Column key={t.name} x={edges[i] ?? AXIS} track={t} y={y} layer={layer} />
        ))}
        {props.stretches && <Head x={spansAt} name="free span" unit="mm" most={longest} />}
        {stretches.map((s) => {
          const wide = Math.max(2, (s.mm / (longest || 1)) * (SPANS - 10));
          const high = Math.max(4, y(s.low) - y(s.high));
          return (
            <g
              key={s.key}
              data-stretch={s.key}
              className="cursor-pointer"
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => onStretch?.(s.key)}
            >
              <title>{s.words}</title>
              <rect
                x={spansAt + 2}
                y={Math.min(y(s.high), y(s.low) - high)}
                width={wide}
                height={high}
                fill={s.colour}
                stroke={s.lit ? "var(--color-ink)" : "none"}
                strokeWidth="1.6"
              />
              {written.has(s.key) && (
                <text
                  x={spansAt + 2 + wide + (wide > WRITTEN ? -4 : 4)}
                  y={(y(s.low) + y(s.high)) / 2 + 4}
                  textAnchor={wide > WRITTEN ? "end" : "start"}
                  className="figure fill-ink text-[11px] font-semibold [paint-order:stroke] [stroke-width:3px]"
                  stroke="var(--color-paper)"
                >
                  {figure(s.mm, 1)}
                </text>
              )}
            </g>
          );
        })}
        <Head x={eventsAt} name="events" unit="" most={0} />
        {spread(events.map((e) => y(e.low))).map((at, i) => {
          const e = events[i];
          return (
            e && (
              <g key={`${e.low}-${e.words}-${i}`}>
                <path
                  d={`M${eventsAt + 5} ${y(e.low)} V${y(e.high)}`}
                  stroke="var(--color-bark)"
                  strokeWidth={e.high > e.low ? 2 : 0}
                />
                <circle
                  cx={eventsAt + 5}
                  cy={y(e.low)}
                  r="3"
                  fill="var(--color-paper)"
                  stroke="var(--color-ink)"
                  strokeWidth="1.2"
                />
                <text x={eventsAt + 12} y={at + 3.5} className="narrow fill-second text-[11px]">
                  {e.words}
                </text>
              </g>
            )
          );
        })}
        {[...new Set([...edges, eventsAt])].map((x) => (
          <path
            key={x}
            d={`M${x} ${HEAD - 4} V${HEAD + tall}`}
            stroke="var(--color-ink)"
            strokeWidth={x === AXIS ? 1.4 : 0.8}
          />
        ))}
        {weakest !== null && (
          <g pointerEvents="none" data-testid="weakest-layer">
            <rect
              x={AXIS}
              y={y(weakest) - 3}
              width={eventsAt - AXIS}
              height={6}
              fill="none"
              stroke="var(--color-crown)"
              strokeWidth="1.4"
            />
            <path d={`M${AXIS - 1} ${y(weakest)} l-7 -4.5 v9 z`} fill="var(--color-crown)" />
          </g>
        )}
        {z !== null && (
          <g pointerEvents="none">
            <rect
              x={AXIS}
              y={y(z + layer / 2)}
              width={size.width - AXIS}
              height={Math.max(1.5, (layer / height) * tall)}
              fill="var(--color-ochre-mark)"
              opacity="0.9"
            />
            <path d={`M${AXIS - 1} ${y(z)} l-7 -4.5 v9 z`} fill="var(--color-ochre-mark)" />
          </g>
        )}
      </svg>
    </div>
  );
}

function Head({ x, name, unit, most }: { x: number; name: string; unit: string; most: number }): ReactNode {
  return (
    <g>
      <text x={x + 3} y={11} className="narrow fill-ink text-[11.5px] font-semibold">
        {name}
      </text>
      <text x={x + 3} y={24} className="figure fill-second text-[10.5px]">
        {most > 0 ? `${figure(most, most < 100 ? 1 : 0)} ${unit}` : unit}
      </text>
    </g>
  );
}

function Column({ x, track, y, layer }: { x: number; track: Track; y: (mm: number) => number; layer: number }) {
  const top = [...track.values, ...(track.over ?? [])].reduce((a, b) => Math.max(a, b), 0);
  const most = Math.max(top, 1.08 * (track.limit ?? 0));
  const wide = (track.wide ?? TRACK) - 6;
  const along = (v: number) => x + 1 + (v / (most || 1)) * wide;
  const { limit } = track;
  const shape = (from: number, to: number) => {
    const at = (v: number) => along(Math.max(from, Math.min(to, v))).toFixed(1);
    return `M${along(from)} ${y(0)} ${track.values.map((v, k) => `L${at(v)} ${y(k * layer).toFixed(1)} V${y((k + 1) * layer).toFixed(1)}`).join(" ")} L${along(from)} ${y(track.values.length * layer)} Z`;
  };
  const steps = (values: readonly number[]) =>
    values
      .map((v, k) => `L${along(v).toFixed(1)} ${y(k * layer).toFixed(1)} V${y((k + 1) * layer).toFixed(1)}`)
      .join(" ");
  return (
    <g>
      <Head x={x} name={track.name} unit={track.unit} most={top} />
      <path d={shape(0, limit ?? Infinity)} fill={track.colour} opacity="0.75" />
      {limit !== undefined && top > limit && (
        <path d={shape(limit, Infinity)} fill="var(--color-crown)" opacity="0.8" />
      )}
      {limit !== undefined && (
        <path
          d={`M${along(limit)} ${y(0)} V${y(track.values.length * layer)}`}
          stroke="var(--color-ink)"
          strokeWidth="1.4"
        />
      )}
      {track.over && (
        <path
          d={`M${along(track.over[0] ?? 0)} ${y(0)} ${steps(track.over)}`}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1"
          strokeDasharray="3 2"
        />
      )}
    </g>
  );
}

const LINE = 12; // px between the words of two events

/** Heights (px, any order) moved apart so that no words lie on others; the order along the strip stays. */
function spread(heights: readonly number[]): number[] {
  const order = heights.map((h, i) => [h, i] as const).sort((a, b) => b[0] - a[0]);
  const out = [...heights];
  let last = Infinity;
  for (const [h, i] of order) {
    last = Math.min(h, last - LINE);
    out[i] = last;
  }
  return out;
}
