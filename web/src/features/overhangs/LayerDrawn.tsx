/** One layer as it is laid: its true outline, with what it takes. */
import type { LayerLog } from "../../api/client";
import { figure, measure } from "../../domain/figures";

export interface LayerDrawnProps {
  loops: readonly Float32Array[];
  log: LayerLog;
  at: number;
  /** Half the part's greatest extent in plan, mm: all layers are drawn to one scale. */
  reach: number;
}

const SIDE = 168;

export function LayerDrawn({ loops, log, at, reach }: LayerDrawnProps) {
  const path = loops
    .map((loop) => {
      let d = "";
      for (let i = 0; i < loop.length; i += 2)
        d += `${i ? "L" : "M"}${(loop[i] ?? 0).toFixed(2)} ${(-(loop[i + 1] ?? 0)).toFixed(2)}`;
      return `${d}Z`;
    })
    .join("");
  const rows: [string, string][] = [
    ["section", `${measure(log.area_mm2[at])} mm²`],
    ["perimeters", `${measure(log.perimeters_mm[at])} mm`],
    ["solid filling", `${measure(log.solid_mm[at])} mm`],
    ["sparse filling", `${measure(log.sparse_mm[at])} mm`],
    ["time, one copy", `${figure(log.seconds_one[at], 1)} s`],
  ];
  if (log.copies > 1) rows.push([`time, ${log.copies} copies`, `${figure(log.seconds[at], 1)} s`]);
  return (
    <div className="flex gap-4 px-3 py-2" data-testid="layer-drawn">
      <svg
        width={SIDE}
        height={SIDE}
        viewBox={`${-reach * 1.05} ${-reach * 1.05} ${reach * 2.1} ${reach * 2.1}`}
        role="img"
        aria-label={`Outline of layer ${at + 1}`}
        className="shrink-0 border border-rule bg-raised"
      >
        <path
          d={path}
          fill="var(--color-lit)"
          fillRule="evenodd"
          stroke="var(--color-ochre)"
          strokeWidth="1.2"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <div className="min-w-0 flex-1">
        <p>
          layer <b className="figure text-[15px]">{at + 1}</b>{" "}
          <span className="text-second">of {log.area_mm2.length}</span>
          <b className="figure pl-3 text-[15px]">{figure(log.first_mm + at * log.layer_mm, 2)} mm</b>{" "}
          <span className="text-second">up</span>
        </p>
        <dl className="narrow mt-1 grid grid-cols-[1fr_auto] gap-x-3">
          {rows.map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-second">{name}</dt>
              <dd className="figure text-right">{value}</dd>
            </div>
          ))}
        </dl>
      </div>
    </div>
  );
}
