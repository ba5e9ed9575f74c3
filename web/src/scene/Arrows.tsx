/** Loads drawn over the specimen like on a workshop drawing: arrows with their names, held faces hatched. */
import { useRef } from "react";

import { CROWN, INK, PAPER, RAISED, SECOND_INK } from "../domain/palette";
import { type Vec3, dot } from "../domain/vectors";
import { REGION_COLOURS } from "./paper";
import type { Picture } from "./view";

export interface Arrow {
  id: string;
  at: Vec3;
  direction: Vec3;
  words: string;
  kind: "force" | "moment" | "pressure" | "weight" | "answer";
  /** Whether its head can be turned. */
  turns: boolean;
}

export interface Label {
  id: string;
  at: Vec3;
  words: string;
  colour: number;
  sign: "held" | "spot" | "face";
}

const LENGTH = 64;
const SNAP = Math.cos((4 * Math.PI) / 180);
const AXES: readonly Vec3[] = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
];

interface Props {
  picture: Picture;
  width: number;
  height: number;
  arrows: readonly Arrow[];
  labels: readonly Label[];
  /** Called while a head is turned, and once more when it is let go. */
  onTurn?: (id: string, direction: Vec3, done: boolean) => void;
}

export function Arrows({ picture, width, height, arrows, labels, onTurn }: Props) {
  const grip = useRef<{ id: string; x: number; y: number; deep: number; last: Vec3 } | null>(null);
  const centre = `translate(${width / 2} ${height / 2})`;
  return (
    <svg width={width} height={height} className="pointer-events-none absolute inset-0" data-testid="arrows">
      <defs>
        <pattern id="held" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0 V5" stroke={INK} strokeWidth="1.6" />
        </pattern>
      </defs>
      <g transform={centre}>
        {labels.map((l) => {
          const { x, y } = picture.at(l.at);
          return (
            <g key={l.id} transform={`translate(${x} ${y})`}>
              {l.sign === "held" && (
                <rect x="-7" y="-3.5" width="14" height="7" fill="url(#held)" stroke={INK} strokeWidth="1" />
              )}
              {l.sign === "spot" && <path d="M-6 -6 L6 6 M-6 6 L6 -6" stroke={CROWN} strokeWidth="2" />}
              {l.sign === "face" && <circle r="3.5" fill={REGION_COLOURS[l.colour]} stroke={RAISED} />}
              <Words x={9} y={4} words={l.words} room={width / 2 - x} />
            </g>
          );
        })}
        {arrows.map((a) => {
          const from = picture.at(a.at);
          const [sx, sy, sz] = picture.seen(a.direction);
          // A force pulls away from its face; pressure and answers press on it.
          const sign = a.kind === "pressure" ? -1 : 1;
          const tip = sign > 0 ? { x: from.x + sx * LENGTH, y: from.y - sy * LENGTH } : from;
          const tail = sign > 0 ? from : { x: from.x - sx * LENGTH, y: from.y + sy * LENGTH };
          const colour = a.kind === "answer" ? SECOND_INK : INK;
          const head = Math.atan2(-sy, sx);
          const wing = (turn: number) => `L${tip.x - 11 * Math.cos(head + turn)} ${tip.y - 11 * Math.sin(head + turn)}`;
          const flat = Math.hypot(sx, sy) > 0.12;
          return (
            <g key={a.id} stroke={colour} fill="none" strokeWidth={a.kind === "answer" ? 1.4 : 2.2} data-arrow={a.id}>
              <path d={`M${tail.x} ${tail.y} L${tip.x} ${tip.y}`} stroke={RAISED} strokeWidth={5} opacity={0.7} />
              <path
                d={`M${tail.x} ${tail.y} L${tip.x} ${tip.y}`}
                strokeDasharray={a.kind === "answer" ? "4 3" : undefined}
              />
              {flat ? (
                <path d={`M${tip.x} ${tip.y} ${wing(0.4)} M${tip.x} ${tip.y} ${wing(-0.4)}`} />
              ) : (
                <circle cx={tip.x} cy={tip.y} r={sz > 0 ? 3 : 6} fill={sz > 0 ? colour : "none"} />
              )}
              {a.kind === "moment" && (
                <path
                  d={`M${tip.x - 16 * Math.cos(head + 0.4)} ${tip.y - 16 * Math.sin(head + 0.4)} L${tip.x - 6 * Math.cos(head)} ${tip.y - 6 * Math.sin(head)} L${tip.x - 16 * Math.cos(head - 0.4)} ${tip.y - 16 * Math.sin(head - 0.4)}`}
                />
              )}
              <Words x={tip.x + 8} y={tip.y + (sy > 0 ? -8 : 14)} words={a.words} room={width / 2 - tip.x} />
              {a.turns && onTurn && (
                <circle
                  cx={tip.x}
                  cy={tip.y}
                  r={11}
                  className="pointer-events-auto cursor-move"
                  fill="transparent"
                  stroke={CROWN}
                  strokeWidth={1}
                  strokeDasharray="2 3"
                  role="slider"
                  aria-label={`Turn ${a.words}`}
                  aria-valuenow={Math.round((head * 180) / Math.PI)}
                  onPointerDown={(e) => {
                    e.stopPropagation();
                    e.currentTarget.setPointerCapture(e.pointerId);
                    grip.current = {
                      id: a.id,
                      x: e.clientX - tip.x,
                      y: e.clientY - tip.y,
                      deep: sz >= 0 ? 1 : -1,
                      last: a.direction,
                    };
                  }}
                  onPointerMove={(e) => {
                    const g = grip.current;
                    if (!g || g.id !== a.id) return;
                    e.stopPropagation();
                    let x = (e.clientX - g.x - from.x) / LENGTH;
                    let y = -(e.clientY - g.y - from.y) / LENGTH;
                    const length = Math.hypot(x, y);
                    if (length > 1) [x, y] = [x / length, y / length];
                    const turned = picture.direction([x, y, g.deep * Math.sqrt(Math.max(0, 1 - x * x - y * y))]);
                    g.last = AXES.find((axis) => dot(axis, turned) > SNAP) ?? turned;
                    onTurn(a.id, g.last, false);
                  }}
                  onPointerUp={(e) => {
                    const g = grip.current;
                    if (!g) return;
                    e.stopPropagation();
                    grip.current = null;
                    onTurn(a.id, g.last, true);
                  }}
                />
              )}
            </g>
          );
        })}
      </g>
    </svg>
  );
}

const LETTER = 5.6; // px, on average

/** Words to the right of a spot, or to its left where the right has no room for them. */
function Words({ x, y, words, room }: { x: number; y: number; words: string; room: number }) {
  const left = 12 + LETTER * words.length > room;
  return (
    <text
      x={left ? x - 18 : x}
      y={y}
      textAnchor={left ? "end" : "start"}
      fontSize={11.5}
      fontWeight={600}
      fill={INK}
      stroke={PAPER}
      strokeWidth={3}
      paintOrder="stroke"
      className="narrow"
    >
      {words}
    </text>
  );
}
