/** A sketch of what a card is about; where none is drawn, nothing. */
import { SKETCHES } from "../../domain/sketches";

const path = (points: readonly (readonly [number, number])[], open?: boolean) =>
  `M${points.map(([x, y]) => `${x} ${y}`).join("L")}${open ? "" : "Z"}`;

export function SketchOf({ card }: { card: string }) {
  const sketch = SKETCHES[card];
  if (!sketch) return null;
  return (
    <svg
      viewBox="0 0 220 130"
      className="mb-3 w-full max-w-[330px]"
      role="img"
      aria-label={`What ${card.replaceAll("_", " ")} is about`}
      data-testid="sketch"
    >
      <defs>
        <marker id="tick" viewBox="0 0 8 8" refX="4" refY="4" markerWidth="7" markerHeight="7" orient="auto">
          <path d="M2 7L6 1" stroke="var(--color-ink)" strokeWidth="1" />
        </marker>
        <marker id="push" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" orient="auto">
          <path d="M0 1L8 4L0 7Z" fill="var(--color-crown)" />
        </marker>
      </defs>
      {sketch.bodies.map((b, i) => (
        <path
          key={i}
          d={path(b.points, b.open)}
          fill={b.steel ? "var(--color-rail)" : "var(--color-paper)"}
          stroke="var(--color-ink)"
          strokeWidth={b.steel ? 1.4 : 0.9}
        />
      ))}
      {sketch.rounds?.map((r, i) => (
        <circle
          key={i}
          cx={r.at[0]}
          cy={r.at[1]}
          r={r.radius}
          fill={r.steel ? "var(--color-rail)" : "var(--color-raised)"}
          stroke="var(--color-ink)"
          strokeWidth={r.steel ? 1.4 : 0.9}
          strokeDasharray={r.dashed ? "3 2" : undefined}
        />
      ))}
      {sketch.thin?.map((l, i) => (
        <path
          key={i}
          d={path(l, true)}
          fill="none"
          stroke="var(--color-second)"
          strokeWidth="0.6"
          strokeDasharray="6 2 1 2"
        />
      ))}
      {sketch.sizes.map(([a, b, name]) => (
        <g key={name}>
          <path
            d={path([a, b], true)}
            stroke="var(--color-ink)"
            strokeWidth="0.7"
            markerStart="url(#tick)"
            markerEnd="url(#tick)"
          />
          <Name at={[(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]} level={Math.abs(a[0] - b[0]) > Math.abs(a[1] - b[1])}>
            {name}
          </Name>
        </g>
      ))}
      {sketch.forces?.map(([a, b, name]) => (
        <g key={name}>
          <path d={path([a, b], true)} stroke="var(--color-crown)" strokeWidth="1.4" markerEnd="url(#push)" />
          <Name at={a} level>
            {name}
          </Name>
        </g>
      ))}
    </svg>
  );
}

/** A name beside its line, kept on the sheet. */
function Name({ at, level, children }: { at: readonly [number, number]; level: boolean; children: string }) {
  const wide = 5.2 * children.length;
  const x = Math.min(Math.max(level ? at[0] : at[0] + 4 + wide / 2, wide / 2 + 1), 219 - wide / 2);
  const y = Math.min(Math.max(level ? at[1] - 3.5 : at[1] + 3, 9), 128);
  return (
    <text
      x={x}
      y={y}
      textAnchor="middle"
      fontSize="9.5"
      fill="var(--color-ink)"
      stroke="var(--color-raised)"
      strokeWidth="2.4"
      paintOrder="stroke"
    >
      {children}
    </text>
  );
}
