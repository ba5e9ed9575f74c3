/** One layer as the nozzle draws it: its true outline, every line of the perimeters, slits and bare places; what lies across the wall pointed at. */
import { memo, useState } from "react";

import { type Chord, type Drawn, type Loops, chordAt } from "../domain/chord";
import { figure } from "../domain/figures";
import { acrossWords } from "../domain/walls";
import { useSize } from "./size";

interface Props {
  sheet: Drawn & { box_mm: readonly number[] };
  label: string;
}

const EDGE = 26;
/** Lines by which the arrow keys move the place that is pointed at. */
const STEPS: Readonly<Record<string, readonly [number, number] | undefined>> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
const BARS = [1, 2, 5, 10, 20, 50, 100];

export function LayerSheet({ sheet, label }: Props) {
  const inner = sheet.inner_mm;
  const [frame, size] = useSize({ width: 800, height: 420 });
  const [x0 = 0, y0 = 0, x1 = 1, y1 = 1] = sheet.box_mm;
  const [at, setAt] = useState<readonly [number, number] | null>(null);
  const chord = at && chordAt(sheet, at);
  const scale = Math.max(
    0.1,
    Math.min((size.width - 2 * EDGE) / Math.max(x1 - x0, 1e-6), (size.height - 2 * EDGE) / Math.max(y1 - y0, 1e-6)),
  );
  const [left, foot] = [size.width / 2 - ((x0 + x1) / 2) * scale, size.height / 2 + ((y0 + y1) / 2) * scale];
  const onSheet = onto(scale, left, foot);
  const inPart = (x: number, y: number) => [(x - left) / scale, (foot - y) / scale] as const;
  const move = (x: number, y: number) =>
    setAt((p) => [(p?.[0] ?? (x0 + x1) / 2) + x * inner, (p?.[1] ?? (y0 + y1) / 2) + y * inner]);
  const bar = BARS.find((b) => b * scale > 60) ?? 100;
  return (
    <div
      ref={frame}
      className="relative h-full w-full overflow-hidden max-sm:h-[300px]"
      tabIndex={0}
      role="application"
      aria-label={`${label}. Arrow keys point at a place of it.`}
      data-testid="layer-sheet"
      onKeyDown={(e) => {
        const by = STEPS[e.key];
        if (!by) return;
        move(...by);
        e.preventDefault();
      }}
    >
      <p
        className={`pointer-events-none absolute top-1.5 right-3 ${chord ? "figure" : "text-second"}`}
        role="status"
        data-testid="across"
      >
        {chord ? acrossWords(chord) : at ? "nothing of this layer is there" : "point at a wall to read its lines"}
      </p>
      <svg
        width={size.width}
        height={size.height}
        className="block"
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          setAt(inPart(e.clientX - box.left, e.clientY - box.top));
        }}
        onPointerLeave={() => setAt(null)}
      >
        <Drawing sheet={sheet} scale={scale} left={left} foot={foot} />
        {chord && <Across chord={chord} onSheet={onSheet} />}
        <g transform={`translate(${EDGE} ${size.height - 14})`}>
          <path d={`M0 -5 V0 H${bar * scale} V-5`} fill="none" stroke="var(--color-ink)" />
          <text x={bar * scale + 6} y={1} className="figure fill-ink text-[11px]">
            {figure(bar, 0)} mm
          </text>
        </g>
      </svg>
    </div>
  );
}

/** The way across, from face to face, with a tick at either end. */
function Across({ chord, onSheet }: { chord: Chord; onSheet: (x: number, y: number) => readonly [number, number] }) {
  const [[x1, y1], [x2, y2]] = [onSheet(...chord.from), onSheet(...chord.to)];
  const long = Math.max(1e-6, Math.hypot(x2 - x1, y2 - y1));
  const [tx, ty] = [(-(y2 - y1) / long) * 6, ((x2 - x1) / long) * 6];
  const ways = `M${x1} ${y1}L${x2} ${y2}M${x1 - tx} ${y1 - ty}L${x1 + tx} ${y1 + ty}M${x2 - tx} ${y2 - ty}L${x2 + tx} ${y2 + ty}`;
  return (
    <g data-testid="chord" pointerEvents="none">
      <path d={ways} fill="none" stroke="var(--color-paper)" strokeWidth="4" />
      <path d={ways} fill="none" stroke="var(--color-ink)" strokeWidth="1.6" />
    </g>
  );
}

/** From mm of the layer to pixels of the sheet. */
const onto = (scale: number, left: number, foot: number) => (x: number, y: number) =>
  [left + x * scale, foot - y * scale] as const;

/** All that does not follow the pointer: drawn anew only with another layer or another size. */
const Drawing = memo(function Drawing({
  sheet,
  scale,
  left,
  foot,
}: {
  sheet: Drawn;
  scale: number;
  left: number;
  foot: number;
}) {
  const { outline, lines, slits, bare, width_mm: width, inner_mm: inner } = sheet;
  const onSheet = onto(scale, left, foot);
  const path = (loops: Loops) =>
    loops
      .map((loop) => {
        let d = "";
        for (let i = 0; i + 1 < loop.length; i += 2) {
          const [x, y] = onSheet(loop[i] ?? 0, loop[i + 1] ?? 0);
          d += `${i ? "L" : "M"}${x.toFixed(2)} ${y.toFixed(2)}`;
        }
        return `${d}Z`;
      })
      .join("");
  return (
    <>
      <path d={path(outline)} fill="var(--color-raised)" fillRule="evenodd" stroke="var(--color-ink)" strokeWidth="1" />
      {lines.map((loops, i) => (
        <path
          key={i}
          d={path(loops)}
          fill="none"
          stroke={i % 2 ? "var(--color-lichen)" : "var(--color-moss)"}
          strokeLinejoin="round"
          strokeOpacity="0.75"
          strokeWidth={Math.max(0.8, (i ? inner : width) * scale * 0.86)}
          data-line={i}
        />
      ))}
      <path
        d={path(slits)}
        fillRule="evenodd"
        fill="var(--color-ochre-mark)"
        stroke="var(--color-ochre-mark)"
        strokeLinejoin="round"
        strokeWidth="1.2"
      />
      <path
        d={path(bare)}
        fillRule="evenodd"
        fill="var(--color-crown)"
        stroke="var(--color-crown)"
        strokeLinejoin="round"
        strokeWidth="1.2"
      />
      <path d={path(outline)} fill="none" stroke="var(--color-ink)" strokeWidth="1" />
    </>
  );
});
