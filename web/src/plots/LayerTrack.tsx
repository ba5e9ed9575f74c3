/** What the nozzle leaves in every layer, along the height of the part: slits between lines, and places where no line fits. */
import { figure, measure } from "../domain/figures";
import { useSize } from "./size";

interface Props {
  layer: number;
  slits: readonly number[];
  bare: readonly number[];
  at: number;
  onPick: (layer: number) => void;
}

const LEFT = 52;
const RIGHT = 14;
const TOP = 12;
const FOOT = 24;

export function LayerTrack({ layer, slits, bare, at, onPick }: Props) {
  const [box, size] = useSize({ width: 800, height: 190 });
  const count = slits.length;
  const most = Math.max(...slits.map((s, i) => s + (bare[i] ?? 0)), 1e-9);
  const wide = Math.max(80, size.width - LEFT - RIGHT);
  const floor = Math.max(TOP + 30, size.height - FOOT);
  const x = (k: number) => LEFT + (k / count) * wide;
  const tall = (area: number) => (area / most) * (floor - TOP);
  const pick = (k: number) => onPick(Math.max(0, Math.min(count - 1, k)));
  const step = [1, 2, 5, 10, 20, 50, 100].find((s) => (s / (count * layer)) * wide > 46) ?? 200;
  return (
    <div
      ref={box}
      className="h-full w-full overflow-hidden"
      tabIndex={0}
      role="slider"
      aria-label="Layers: area that the nozzle leaves, by height"
      aria-valuemin={1}
      aria-valuemax={count}
      aria-valuenow={at + 1}
      aria-valuetext={`layer ${at + 1}, ${figure((at + 1) * layer, 2)} mm up: ${measure(slits[at])} mm² of slits, ${measure(bare[at])} mm² bare`}
      data-testid="layer-track"
      onKeyDown={(e) => {
        const by = { ArrowRight: 1, ArrowLeft: -1, ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
        if (by) pick(at + by);
        else if (e.key === "Home") pick(0);
        else if (e.key === "End") pick(count - 1);
        else return;
        e.preventDefault();
      }}
    >
      <svg
        width={size.width}
        height={size.height}
        className="block cursor-pointer"
        onPointerDown={(e) =>
          pick(Math.floor(((e.clientX - e.currentTarget.getBoundingClientRect().left - LEFT) / wide) * count))
        }
      >
        {slits.map((slit, k) => {
          const none = bare[k] ?? 0;
          if (slit + none <= 0) return null;
          const w = Math.max(0.8, wide / count);
          return (
            <g key={k}>
              <rect x={x(k)} width={w} y={floor - tall(slit)} height={tall(slit)} fill="var(--color-ochre-mark)" />
              <rect x={x(k)} width={w} y={floor - tall(slit + none)} height={tall(none)} fill="var(--color-crown)" />
            </g>
          );
        })}
        {most <= 1e-6 && (
          <text x={LEFT + wide / 2} y={(TOP + floor) / 2} textAnchor="middle" className="fill-second text-[12.5px]">
            lines and infill fill every layer
          </text>
        )}
        <line x1={x(at + 0.5)} x2={x(at + 0.5)} y1={TOP - 6} y2={floor} stroke="var(--color-moss)" strokeWidth="1.6" />
        <line x1={LEFT} x2={LEFT + wide} y1={floor} y2={floor} stroke="var(--color-ink)" strokeWidth="1.2" />
        {Array.from({ length: Math.floor((count * layer) / step) + 1 }, (_, i) => i * step).map((mm) => (
          <text
            key={mm}
            x={x(mm / layer)}
            y={floor + 16}
            textAnchor="middle"
            className="figure fill-second text-[11px]"
          >
            {figure(mm, 0)}
          </text>
        ))}
        <text x={LEFT - 12} y={floor + 16} textAnchor="end" className="narrow fill-second text-[11px]">
          mm up
        </text>
        <text x={LEFT - 8} y={TOP + 8} textAnchor="end" className="figure fill-second text-[11px]">
          {measure(most > 1e-6 ? most : 0)}
        </text>
        <text x={LEFT - 8} y={TOP + 20} textAnchor="end" className="narrow fill-second text-[11px]">
          mm²
        </text>
      </svg>
    </div>
  );
}
