/**
 * A plate of copies seen from above: true outlines, the order as small numbers, the head's reach in turn mode, and what
 * forbids a place as the line of the distance that is short. Copies are dragged, or moved and turned by keyboard.
 */
import { useMemo, useRef, useState } from "react";

import { type Item, type Mode, pathOf, placed, stageOf, stepFor, turnedAbout } from "../domain/batch";
import { figure } from "../domain/figures";
import { useSize } from "./size";

export interface Bed {
  bed_x: number;
  bed_y: number;
  margin: number;
  front_free: number;
  /** Places where nothing stands: x0, y0, x1, y1. */
  free: readonly (readonly number[])[];
  head_radius: number;
  nozzle_clearance: number;
  gantry: number;
  rail: "x" | "y";
}

interface Wrong {
  item: number;
  other: number | null;
  short_mm: number;
  between: readonly (readonly number[])[] | null;
}

interface Props {
  bed: Bed;
  outline: readonly (readonly (readonly (readonly number[])[])[])[];
  middle: readonly [number, number];
  height: number;
  items: readonly Item[];
  mode: Mode;
  /** How many copies are finished while the next is printed; null where nothing is played. */
  now: number | null;
  /** Lines of a layer as a prepared file lays them: x0, y0, x1, y1 in mm. */
  lines?: readonly (readonly number[])[];
  /** Other parts on the plate, which stand where they stand. */
  guests?: readonly { outline: Props["outline"]; middle: readonly [number, number]; items: readonly Item[] }[];
  wrong: readonly Wrong[];
  /** A copy comes to stand somewhere else; undefined where nothing may be moved. */
  onMove?: ((number: number, to: Item) => void) | undefined;
  label: string;
}

const PAD = 26;
const TURN = 15;
const GUESTS = ["var(--color-ochre-mark)", "var(--color-bark)", "var(--color-moss)"] as const;

export function PlateView({
  bed,
  outline,
  middle,
  height,
  items,
  mode,
  now,
  lines = [],
  guests = [],
  wrong,
  onMove,
  label,
}: Props) {
  const [box, size] = useSize({ width: 640, height: 330 });
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{
    number: number;
    from: readonly [number, number];
    at: readonly [number, number];
  }>();
  const path = useMemo(() => pathOf(outline), [outline]);
  const scale = Math.max(0.1, Math.min((size.width - 2 * PAD) / bed.bed_x, (size.height - 2 * PAD) / bed.bed_y));
  const left = (size.width - scale * bed.bed_x) / 2;
  const floor = (size.height + scale * bed.bed_y) / 2;
  const mm = (e: { clientX: number; clientY: number }): [number, number] => {
    const at = svg.current?.getBoundingClientRect();
    return at ? [(e.clientX - at.left - left) / scale, (floor - (e.clientY - at.top)) / scale] : [0, 0];
  };
  const moved = (item: Item, number: number): Item =>
    drag?.number === number
      ? [item[0] + drag.at[0] - drag.from[0], item[1] + drag.at[1] - drag.from[1], item[2]]
      : item;
  const bad = new Set(wrong.flatMap((w) => (w.other === null ? [w.item] : [w.item, w.other])));
  const printing = mode === "sequential" && now !== null ? items[now] : undefined;
  const step = stepFor(bed.bed_x, 5);
  const spot = (item: Item) => {
    const [x, y] = placed(item, middle);
    return [left + scale * x, floor - scale * y] as const;
  };
  const frame = `translate(${left} ${floor}) scale(${scale} ${-scale})`;
  const stand = (item: Item) => `translate(${item[0]} ${item[1]}) rotate(${item[2]})`;
  const paint = (number: number) => {
    if (bad.has(number)) return "var(--color-crown)";
    if (now === null || mode === "together") return "var(--color-lichen)";
    const stage = stageOf(number, now);
    return stage === "finished" ? "var(--color-bark)" : stage === "printing" ? "var(--color-moss)" : "none";
  };
  const key = (e: React.KeyboardEvent, number: number, item: Item) => {
    if (!onMove) return;
    const by = e.shiftKey ? 0.1 : 1;
    const to: Item | undefined = {
      ArrowLeft: [item[0] - by, item[1], item[2]] as const,
      ArrowRight: [item[0] + by, item[1], item[2]] as const,
      ArrowUp: [item[0], item[1] + by, item[2]] as const,
      ArrowDown: [item[0], item[1] - by, item[2]] as const,
      ",": turnedAbout(item, middle, TURN),
      ".": turnedAbout(item, middle, -TURN),
    }[e.key];
    if (!to) return;
    e.preventDefault();
    e.stopPropagation();
    onMove(number, to);
  };
  return (
    <div ref={box} className="h-full w-full overflow-hidden" data-testid="plate">
      <svg
        ref={svg}
        width={size.width}
        height={size.height}
        className="block select-none"
        role="group"
        aria-label={label}
      >
        <g transform={frame}>
          <rect
            width={bed.bed_x}
            height={bed.bed_y}
            fill="var(--color-raised)"
            stroke="var(--color-ink)"
            strokeWidth={1.4 / scale}
          />
          {bed.front_free > 0 && <rect width={bed.bed_x} height={bed.front_free} fill="var(--color-rail)" />}
          {bed.free.map((f, i) => (
            <rect
              key={i}
              x={f[0]}
              y={f[1]}
              width={(f[2] ?? 0) - (f[0] ?? 0)}
              height={(f[3] ?? 0) - (f[1] ?? 0)}
              fill="var(--color-rail)"
              stroke="var(--color-bark)"
              strokeWidth={0.8 / scale}
              data-testid="kept-free"
            />
          ))}
          {bed.margin > 0 && (
            <rect
              x={bed.margin}
              y={bed.margin}
              width={Math.max(0, bed.bed_x - 2 * bed.margin)}
              height={Math.max(0, bed.bed_y - 2 * bed.margin)}
              fill="none"
              stroke="var(--color-rule)"
              strokeWidth={0.8 / scale}
              strokeDasharray={`${4 / scale} ${3 / scale}`}
            />
          )}
          {printing && (
            <>
              {height > bed.gantry && <Rail item={printing} bed={bed} outline={outline} />}
              {height > bed.nozzle_clearance && (
                <path
                  d={path}
                  transform={stand(printing)}
                  fill="var(--color-moss)"
                  stroke="var(--color-moss)"
                  strokeWidth={2 * bed.head_radius}
                  strokeLinejoin="round"
                  opacity="0.13"
                  data-testid="head-reach"
                />
              )}
            </>
          )}
          {items.map((given, number) => {
            const item = moved(given, number);
            const fill = paint(number);
            return (
              <path
                key={number}
                d={path}
                transform={stand(item)}
                fill={fill}
                fillOpacity={fill === "var(--color-lichen)" ? 0.55 : 0.8}
                fillRule="evenodd"
                stroke={bad.has(number) ? "var(--color-crown)" : "var(--color-ink)"}
                strokeWidth={1 / scale}
                className={
                  onMove ? "cursor-move focus:outline-none focus-visible:stroke-[var(--color-moss)]" : undefined
                }
                tabIndex={onMove ? 0 : undefined}
                role={onMove ? "button" : undefined}
                aria-label={`Copy ${number + 1} at ${figure(placed(item, middle)[0], 1)}, ${figure(placed(item, middle)[1], 1)} mm, turned ${figure(item[2], 0)}°`}
                data-testid="copy"
                pointerEvents="all"
                onKeyDown={(e) => key(e, number, given)}
                onPointerDown={(e) => {
                  if (!onMove) return;
                  e.currentTarget.setPointerCapture(e.pointerId);
                  setDrag({ number, from: mm(e), at: mm(e) });
                }}
                onPointerMove={(e) => drag?.number === number && setDrag({ ...drag, at: mm(e) })}
                onPointerUp={() => {
                  if (drag?.number !== number) return;
                  const to = moved(given, number);
                  setDrag(undefined);
                  if (Math.hypot(to[0] - given[0], to[1] - given[1]) > 0.05) onMove?.(number, to);
                }}
                onPointerCancel={() => setDrag(undefined)}
              />
            );
          })}
        </g>
        {guests.map((guest, kind) => (
          <g key={kind} transform={frame}>
            {guest.items.map((item, i) => (
              <path
                key={i}
                d={pathOf(guest.outline)}
                transform={stand(item)}
                fill={GUESTS[kind % GUESTS.length]}
                fillOpacity="0.55"
                fillRule="evenodd"
                stroke="var(--color-ink)"
                strokeWidth={1 / scale}
                data-testid="guest"
              />
            ))}
          </g>
        ))}
        {guests.flatMap((guest, kind) =>
          guest.items.map((item, i) => {
            const [x, y] = placed(item, guest.middle);
            return (
              <text
                key={`${kind} ${i}`}
                x={left + scale * x}
                y={floor - scale * y + 4}
                textAnchor="middle"
                className="figure pointer-events-none fill-ink text-[11px]"
              >
                {String.fromCharCode(66 + kind)}
              </text>
            );
          }),
        )}
        {lines.length > 0 && (
          <path
            d={lines.map((l) => `M${l[0]} ${l[1]}L${l[2]} ${l[3]}`).join("")}
            transform={frame}
            stroke="var(--color-crown)"
            strokeWidth={1.2 / scale}
            fill="none"
            pointerEvents="none"
            data-testid="prepared-lines"
          />
        )}
        {items.length <= 400 &&
          items.map((given, number) => {
            const [x, y] = spot(moved(given, number));
            const dark = ["var(--color-bark)", "var(--color-moss)", "var(--color-crown)"].includes(paint(number));
            return (
              <text
                key={number}
                x={x}
                y={y + 4}
                textAnchor="middle"
                className={`figure pointer-events-none text-[11px] ${dark ? "fill-raised" : "fill-ink"}`}
              >
                {number + 1}
              </text>
            );
          })}
        {wrong.map((w, i) => (
          <Short key={i} wrong={w} at={([x, y]) => [left + scale * (x ?? 0), floor - scale * (y ?? 0)]} />
        ))}
        {Array.from({ length: Math.floor(bed.bed_x / step) + 1 }, (_, i) => i * step).map((x) => (
          <text
            key={x}
            x={left + scale * x}
            y={floor + 15}
            textAnchor="middle"
            className="figure fill-second text-[11px]"
          >
            {figure(x, 0)}
          </text>
        ))}
        <text x={left + scale * bed.bed_x + 6} y={floor + 15} className="narrow fill-second text-[11px]">
          mm
        </text>
        <text
          x={left - 6}
          y={floor - scale * bed.bed_y + 9}
          textAnchor="end"
          className="figure fill-second text-[11px]"
        >
          {figure(bed.bed_y, 0)}
        </text>
      </svg>
    </div>
  );
}

/** The band under the rail that finished copies higher than it may not reach. */
function Rail({ item, bed, outline }: { item: Item; bed: Bed; outline: Props["outline"] }) {
  const points = outline.flatMap((p) => p[0] ?? []).map((p) => placed(item, [p[0] ?? 0, p[1] ?? 0]));
  const along = bed.rail === "x" ? points.map((p) => p[1]) : points.map((p) => p[0]);
  const [low, high] = [Math.min(...along), Math.max(...along)];
  return bed.rail === "x" ? (
    <rect x={0} width={bed.bed_x} y={low} height={high - low} fill="var(--color-ochre-mark)" opacity="0.16" />
  ) : (
    <rect y={0} height={bed.bed_y} x={low} width={high - low} fill="var(--color-ochre-mark)" opacity="0.16" />
  );
}

function Short({ wrong, at }: { wrong: Wrong; at: (p: readonly number[]) => [number, number] }) {
  if (!wrong.between) return null;
  const [a, b] = [at(wrong.between[0] ?? []), at(wrong.between[1] ?? [])];
  return (
    <g data-testid="too-near">
      <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="var(--color-crown)" strokeWidth="2.4" />
      <text
        x={(a[0] + b[0]) / 2 + 6}
        y={(a[1] + b[1]) / 2 - 5}
        className="figure fill-crown text-[12px] font-bold"
        stroke="var(--color-raised)"
        strokeWidth="3"
        paintOrder="stroke"
      >
        {figure(wrong.short_mm, 1)} mm short
      </text>
    </g>
  );
}
