/** Measuring between two places of the part, and a section through it: what is done to look, and changes nothing. */
import { figure } from "../../domain/figures";
import type { Vec3 } from "../../domain/vectors";
import type { SectionPlane } from "../../scene/Specimen";
import { measured, thicknessAt } from "../../scene/faces";
import type { Shape } from "../../scene/shape";
import type { Picture } from "../../scene/view";
import { Button, Either } from "../../ui/controls";

export interface Spot {
  facet: number;
  point: Vec3;
  normal: Vec3;
}

const AXES = { x: 0, y: 1, z: 2 } as const;
const SECTIONS = ["whole", "x", "y", "z"] as const;
export type Sectioned = { axis: keyof typeof AXES; at: number; flipped: boolean };

export const planeOf = (cut: Sectioned | null): SectionPlane | null => {
  if (!cut) return null;
  const sign = cut.flipped ? -1 : 1;
  const normal = [0, 1, 2].map((k) => (k === AXES[cut.axis] ? sign : 0)) as unknown as Vec3;
  return { normal, at: sign * cut.at };
};

interface SectionProps {
  box: readonly (readonly number[])[];
  cut: Sectioned | null;
  onCut: (cut: Sectioned | null) => void;
}

export function SectionTool({ box, cut, onCut }: SectionProps) {
  const range = (axis: keyof typeof AXES): [number, number] => [box[0]?.[AXES[axis]] ?? 0, box[1]?.[AXES[axis]] ?? 0];
  const [low, high] = cut ? range(cut.axis) : [0, 0];
  return (
    <div className="flex items-center gap-2" data-testid="section">
      <span className="text-second">section</span>
      <Either
        label="Section normal to"
        of={SECTIONS}
        here={cut?.axis ?? "whole"}
        onPick={(to) => {
          if (to === "whole") onCut(null);
          else {
            const [a, b] = range(to);
            onCut({ axis: to, at: (a + b) / 2, flipped: cut?.flipped ?? false });
          }
        }}
      />
      {cut && (
        <>
          <input
            type="range"
            aria-label="Where it is cut, mm"
            className="w-36 accent-ink"
            min={low}
            max={high}
            step={(high - low) / 200 || 1}
            value={cut.at}
            onChange={(e) => onCut({ ...cut, at: Number(e.target.value) })}
          />
          <span className="figure w-20">
            {cut.axis} {figure(cut.at, 1)} mm
          </span>
          <button type="button" className="underline" onClick={() => onCut({ ...cut, flipped: !cut.flipped })}>
            other half
          </button>
        </>
      )}
    </div>
  );
}

/** What was measured, in a line. */
export function measuredWords(shape: Shape, spots: readonly Spot[]): string | null {
  const [a, b] = spots;
  if (!a) return null;
  if (!b) {
    const thick = thicknessAt(shape, a.point, a.normal);
    return thick === null ? "no other side below it" : `${figure(thick, 2)} mm of material below it`;
  }
  const m = measured(a, b);
  const along = m.along.map((v) => figure(v, 2)).join("  ");
  const level =
    m.between === null ? `faces ${figure(m.angle, 1)}° apart` : `faces level, ${figure(m.between, 2)} mm apart`;
  return `${figure(m.distance, 2)} mm (x y z ${along}), ${level}`;
}

interface MeasureProps {
  shape: Shape;
  spots: readonly Spot[];
  /** Keeps it in the part's note; null for those who may not. */
  onKeep: ((words: string) => void) | null;
  onEnd: () => void;
}

export function Measured({ shape, spots, onKeep, onEnd }: MeasureProps) {
  const words = measuredWords(shape, spots);
  return (
    <div
      className="flex flex-wrap items-center gap-2 border-l-4 border-ink bg-raised px-3 py-1.5"
      data-testid="measured"
    >
      <span className="flex-1">{words ?? "Point at a place, and at a second one."}</span>
      {words && onKeep && (
        <Button plain className="!px-2 !py-0" onClick={() => onKeep(words)}>
          Keep in the note
        </Button>
      )}
      <button type="button" className="underline" onClick={onEnd}>
        end
      </button>
    </div>
  );
}

/** The places and the line between them, over the picture. */
export function MeasureLine({
  picture,
  width,
  height,
  spots,
}: {
  picture: Picture;
  width: number;
  height: number;
  spots: readonly Spot[];
}) {
  const at = spots.map((s) => picture.at(s.point));
  const [a, b] = at;
  return (
    <svg
      className="pointer-events-none absolute inset-0 text-crown"
      width={width}
      height={height}
      viewBox={`${-width / 2} ${-height / 2} ${width} ${height}`}
      aria-hidden="true"
    >
      {a && b && <path d={`M${a.x} ${a.y} L${b.x} ${b.y}`} stroke="currentColor" strokeWidth="1.4" />}
      {at.map((p, i) => (
        <circle key={i} cx={p.x} cy={p.y} r="3.5" fill="none" stroke="currentColor" strokeWidth="1.6" />
      ))}
    </svg>
  );
}
