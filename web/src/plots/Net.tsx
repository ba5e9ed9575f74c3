/** The direction net: two equal-area discs, a contoured field, numbered candidates. Props in, events out. */
import { contours } from "d3-contour";
import { memo, useMemo } from "react";

import { MARGIN, project, rasterField, rasterWeights, stepsOf, unproject } from "../domain/net";
import { CROWN, INK } from "../domain/palette";
import { RAMP } from "../domain/ramp";
import { type Vec3, toVec3 } from "../domain/vectors";

const CELLS = 84;

export interface NetMark {
  up: readonly number[];
  number: number;
  stands_out: boolean;
  words: string;
}

export interface NetProps {
  ups: Float32Array;
  values: readonly number[];
  low: number;
  high: number;
  /** Directions whose value is below this fail: they are hatched. */
  fails?: number;
  marks: readonly NetMark[];
  selected: number | null;
  chosen: Vec3 | null;
  pointed: Vec3 | null;
  radius: number;
  /** Directions that the loads pull along: standing so, the layers lie squarely across the pull. */
  pulls?: readonly { direction: Vec3; words: string }[];
  onPoint: (up: Vec3 | null) => void;
  onTake: (up: Vec3, number: number | null) => void;
}

export function Net(props: NetProps) {
  return (
    <div className="flex gap-3">
      <Disc half="upper" caption="build direction in the upper half" {...props} />
      <Disc half="lower" caption="lower half, seen from above" {...props} />
    </div>
  );
}

function Disc({ half, caption, ...p }: NetProps & { half: "upper" | "lower"; caption: string }) {
  const r = p.radius;
  const pad = 15;
  const side = 2 * (r + pad);
  const at = (e: { clientX: number; clientY: number }, box: DOMRect): Vec3 | null => {
    const k = side / box.width;
    return unproject(half, ((e.clientX - box.left) * k - r - pad) / r, -((e.clientY - box.top) * k - r - pad) / r);
  };
  const spots = useMemo(
    () =>
      spread(
        p.marks.filter((m) => project(toVec3(m.up)).disc === half),
        r,
      ),
    [p.marks, half, r],
  );
  const pointer = p.pointed && project(p.pointed).disc === half ? project(p.pointed) : null;
  const stood = p.chosen && project(p.chosen).disc === half ? project(p.chosen) : null;
  return (
    <figure className="m-0">
      <figcaption className="narrow text-center text-[11px] text-second">{caption}</figcaption>
      <svg
        width={side}
        height={side}
        viewBox={`${-r - pad} ${-r - pad} ${side} ${side}`}
        className="block cursor-crosshair select-none"
        data-half={half}
        onPointerMove={(e) => p.onPoint(at(e, e.currentTarget.getBoundingClientRect()))}
        onPointerLeave={() => p.onPoint(null)}
        onClick={(e) => {
          const up = at(e, e.currentTarget.getBoundingClientRect());
          if (up) p.onTake(up, null);
        }}
      >
        <Contours ups={p.ups} values={p.values} low={p.low} high={p.high} fails={p.fails} half={half} r={r} />
        <g stroke={INK} strokeOpacity={0.22} strokeWidth={0.8} fill="none" pointerEvents="none">
          {[30, 60].map((a) => (
            <circle key={a} r={r * Math.sqrt(1 - Math.cos((a * Math.PI) / 180))} strokeDasharray="2 4" />
          ))}
          <path d={`M${-r} 0 H${r} M0 ${-r} V${r}`} strokeDasharray="2 4" />
        </g>
        <circle r={r} fill="none" stroke="var(--color-ink)" strokeWidth={1.4} pointerEvents="none" />
        <g
          className="figure"
          fontSize={10}
          fill="var(--color-second)"
          textAnchor="middle"
          dominantBaseline="central"
          pointerEvents="none"
        >
          <text x={r + 9}>x</text>
          <text y={-r - 8}>y</text>
          <text x={-r - 9}>−x</text>
          <text y={r + 9}>−y</text>
        </g>
        {stood && (
          <g fill="none" pointerEvents="none">
            <rect
              x={stood.x * r - 12}
              y={-stood.y * r - 12}
              width={24}
              height={24}
              stroke="var(--color-raised)"
              strokeWidth={4}
            />
            <rect
              x={stood.x * r - 12}
              y={-stood.y * r - 12}
              width={24}
              height={24}
              stroke="var(--color-ink)"
              strokeWidth={1.6}
            />
          </g>
        )}
        {(p.pulls ?? []).flatMap(({ direction, words }) =>
          [direction, [-direction[0], -direction[1], -direction[2]] as Vec3].map((d, side) => {
            const spot = project(d);
            if (spot.disc !== half) return null;
            return (
              <g key={`${words}-${side}`} transform={`translate(${spot.x * r} ${-spot.y * r})`} data-pull={words}>
                <path
                  d="M0 -17 L17 0 L0 17 L-17 0 Z"
                  fill="none"
                  stroke="var(--color-crown)"
                  strokeWidth={1.6}
                  pointerEvents="none"
                />
                <path d="M-17 0 h-4 M17 0 h4" stroke="var(--color-crown)" strokeWidth={1.6} pointerEvents="none" />
              </g>
            );
          }),
        )}
        {spots.map(({ mark, x, y, home }) => (
          <Mark
            key={mark.number}
            mark={mark}
            x={x}
            y={y}
            home={home}
            selected={mark.number === p.selected}
            onTake={p.onTake}
            onPoint={p.onPoint}
          />
        ))}
        {pointer && (
          <path
            d={`M${pointer.x * r - 6} ${-pointer.y * r} h12 m-6 -6 v12`}
            stroke="var(--color-crown)"
            strokeWidth={1.3}
            pointerEvents="none"
          />
        )}
      </svg>
    </figure>
  );
}

interface MarkProps {
  mark: NetMark;
  x: number;
  y: number;
  home: { x: number; y: number };
  selected: boolean;
  onTake: NetProps["onTake"];
  onPoint: NetProps["onPoint"];
}

function Mark({ mark, x, y, home, selected, onTake, onPoint }: MarkProps) {
  const take = () => onTake(toVec3(mark.up), mark.number);
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`Candidate ${mark.number}, ${mark.words}`}
      aria-pressed={selected}
      data-candidate={mark.number}
      className="cursor-pointer"
      onClick={(e) => {
        e.stopPropagation();
        take();
      }}
      onPointerMove={(e) => {
        e.stopPropagation();
        onPoint(toVec3(mark.up));
      }}
      onFocus={() => onPoint(toVec3(mark.up))}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          take();
        }
      }}
    >
      {(home.x !== x || home.y !== y) && (
        <path d={`M${home.x} ${home.y} L${x} ${y}`} stroke="var(--color-ink)" strokeWidth={0.8} />
      )}
      <circle
        cx={x}
        cy={y}
        r={mark.stands_out ? 8.5 : 7}
        fill={selected ? "var(--color-ink)" : "var(--color-raised)"}
        stroke={mark.stands_out ? "var(--color-ink)" : "var(--color-second)"}
        strokeWidth={mark.stands_out ? 1.6 : 1}
        strokeDasharray={mark.stands_out ? undefined : "2 2"}
      />
      <text
        x={x}
        y={y + 0.5}
        className="figure"
        fontSize={mark.number > 9 ? 8.5 : 10}
        fontWeight={600}
        textAnchor="middle"
        dominantBaseline="central"
        fill={selected ? "var(--color-raised)" : mark.stands_out ? "var(--color-ink)" : "var(--color-second)"}
      >
        {mark.number}
      </text>
    </g>
  );
}

/** Marks pushed apart until none covers another, each with a line home. */
function spread(marks: readonly NetMark[], r: number) {
  const spots = marks.map((mark) => {
    const { x, y } = project(toVec3(mark.up));
    const home = { x: x * r, y: -y * r };
    return { mark, x: home.x, y: home.y, home };
  });
  const limit = r - 8; // inside the rim, where the axes have their names
  for (let round = 0; round < 80; round++) {
    let moved = false;
    for (const [i, a] of spots.entries()) {
      for (const [j, b] of spots.entries()) {
        if (j <= i) continue;
        const dx = b.x - a.x || 0.01 * (j - i);
        const dy = b.y - a.y || 0.013;
        const gap = Math.hypot(dx, dy);
        if (gap >= 17) continue;
        const push = (17.2 - gap) / 2 / gap;
        a.x -= dx * push;
        a.y -= dy * push;
        b.x += dx * push;
        b.y += dy * push;
        moved = true;
      }
      const out = Math.hypot(a.x, a.y);
      if (out > limit) {
        // Slightly turned as it is brought in, so that two marks on one ray slide past each other.
        const k = limit / out;
        [a.x, a.y] = [k * (a.x - 0.02 * a.y), k * (a.y + 0.02 * a.x)];
      }
    }
    if (!moved) break;
  }
  return spots;
}

const Contours = memo(function Contours(p: {
  ups: Float32Array;
  values: readonly number[];
  low: number;
  high: number;
  fails?: number | undefined;
  half: "upper" | "lower";
  r: number;
}) {
  const weights = useMemo(() => rasterWeights(p.ups, p.half, CELLS), [p.ups, p.half]);
  const [paths, failing] = useMemo(() => {
    const grid = rasterField(weights, p.values);
    const k = (2 * MARGIN * p.r) / CELLS;
    const to = (v: number) => (v * k - MARGIN * p.r).toFixed(1);
    const drawn = (values: number[], thresholds: number[]) =>
      contours()
        .size([CELLS, CELLS])
        .thresholds(thresholds)(values)
        .map((c) =>
          c.coordinates
            .flatMap((poly) =>
              poly.map((ring) => "M" + ring.map(([x = 0, y = 0]) => `${to(x)} ${to(y)}`).join("L") + "Z"),
            )
            .join(""),
        );
    const below =
      p.fails === undefined
        ? []
        : drawn(
            grid.map((v) => -v),
            [-p.fails],
          );
    return [drawn(grid, stepsOf(p.low, p.high, RAMP.length)), below[0] ?? null] as const;
  }, [weights, p.values, p.low, p.high, p.fails, p.r]);
  const clip = `rim-${p.half}`;
  return (
    <g pointerEvents="none">
      <clipPath id={clip}>
        <circle r={p.r} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        <rect x={-p.r} y={-p.r} width={2 * p.r} height={2 * p.r} fill={RAMP[0]} />
        {paths.map((d, i) => (
          <path key={i} d={d} fill={RAMP[i + 1]} stroke={INK} strokeOpacity={0.28} strokeWidth={0.6} />
        ))}
        {failing && (
          <g data-testid="failing-region">
            <pattern
              id={`fails-${p.half}`}
              width="5"
              height="5"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <path d="M0 0 V5" stroke={CROWN} strokeWidth="1.3" />
            </pattern>
            <path d={failing} fill={`url(#fails-${p.half})`} stroke={CROWN} strokeWidth={1.8} />
          </g>
        )}
      </g>
    </g>
  );
});
