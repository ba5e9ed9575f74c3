/** What each layer has to carry: the log of demand beside the part, one layer's numbers, and what goes out on paper. */
import { useMemo } from "react";

import { type DirectionAnalysis, type DirectionLog, type Solution, api } from "../../api/client";
import { figure, measure } from "../../domain/figures";
import { SAND } from "../../domain/palette";
import { reserve } from "../../domain/strength";
import { isOpen } from "../../domain/work";
import { LayerLog } from "../../plots/LayerLog";
import { Explained } from "../../ui/Explained";
import { Button } from "../../ui/controls";

export function DemandLog({
  log,
  result,
  place,
  at,
  onAt,
}: {
  log: DirectionLog;
  result: Solution;
  place: number;
  at: number | null;
  onAt: (layer: number) => void;
}) {
  const own = log.cases[place];
  const events = useMemo(() => {
    const weakest = result.cases
      .filter((c) => c.reserve !== null)
      .map((c) => ({ low: c.z_mm, high: c.z_mm, words: `${c.name} ${reserve(c.reserve)}` }));
    return [
      ...weakest,
      ...result.perforated.map((p) => ({ low: p.low_mm, high: p.high_mm, words: `${p.holes} holes` })),
    ];
  }, [result]);
  if (!own) return null;
  const here = result.cases[place];
  return (
    <LayerLog
      layer={log.layer_mm}
      first={log.first_mm}
      count={log.area_mm2.length}
      height={log.area_mm2.length * log.layer_mm}
      tracks={[
        { name: "section", unit: "mm²", values: log.area_mm2, colour: SAND, wide: 62 },
        {
          name: "demand",
          unit: "MPa",
          values: own.demand_mpa,
          over: own.section_mpa,
          limit: own.capacity_mpa,
          colour: "var(--color-moss)",
          wide: log.weld ? 84 : 118,
        },
        ...(log.weld
          ? [
              {
                name: "weld",
                unit: "share",
                values: log.weld.value,
                over: log.weld.low,
                colour: "var(--color-lichen)",
                wide: 54,
              },
            ]
          : []),
      ]}
      events={events}
      weakest={here && here.reserve !== null ? here.z_mm : null}
      at={at}
      onAt={onAt}
      label="Layer log of demand, from the plate upward"
      reading={
        at === null
          ? "no layer"
          : `layer ${at + 1}, ${figure(log.first_mm + at * log.layer_mm, 1)} mm up, demand ${figure(own.demand_mpa[at], 2)} of ${figure(own.capacity_mpa, 2)} MPa`
      }
    />
  );
}

export function LayerNumbers({ log, at, place }: { log: DirectionLog; at: number; place: number }) {
  const area = log.area_mm2[at];
  return (
    <div className="px-4 py-2" data-testid="layer-numbers">
      <p>
        layer <b className="figure text-[15px]">{at + 1}</b>{" "}
        <span className="text-second">of {log.area_mm2.length}</span>
        <b className="figure pl-3 text-[15px]">{figure(log.first_mm + at * log.layer_mm, 2)} mm</b>{" "}
        <span className="text-second">up · section</span> <span className="figure">{measure(area)} mm²</span>
        {log.weld && (
          <span data-testid="layer-weld">
            <span className="text-second"> · weld of {log.weld.words}</span>{" "}
            <span className="figure">{figure(log.weld.value[at], 2)}</span>
            <span className="text-second">
              , at worst <span className="figure">{figure(log.weld.low[at], 2)}</span>
            </span>
          </span>
        )}
      </p>
      <table className="narrow mt-1 w-full border-collapse">
        <thead>
          <tr className="text-right text-[11.5px] text-second">
            <th className="text-left font-normal">load case</th>
            <th className="font-normal">
              <Explained of="demand">demand</Explained>
            </th>
            <th className="font-normal">by section</th>
            <th className="font-normal">capacity</th>
            <th className="font-normal">reserve here</th>
          </tr>
        </thead>
        <tbody>
          {log.cases.slice(0, 4).map((c, i) => {
            const demand = c.demand_mpa[at] ?? 0;
            return (
              <tr key={c.id} className={`border-t border-rule text-right ${i === place ? "font-semibold" : ""}`}>
                <td className="text-left">{c.name}</td>
                <td className={`figure ${demand > c.capacity_mpa ? "text-crown" : ""}`}>{figure(demand, 2)} MPa</td>
                <td className="figure">{figure(c.section_mpa[at], 2)} MPa</td>
                <td className="figure">{figure(c.capacity_mpa, 2)} MPa</td>
                <td className="figure">{demand > 0 ? reserve(c.capacity_mpa / demand) : "–"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

export function Outputs({
  analysis,
  mayEdit: may,
  onOrder,
  onLook,
}: {
  analysis: DirectionAnalysis;
  mayEdit: boolean;
  onOrder: () => void;
  onLook: () => void;
}) {
  const busy = isOpen(analysis.fielding ?? undefined);
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <Button plain onClick={onLook}>
        Look at the weakest place
      </Button>
      <a
        className="underline hover:text-second"
        href={api.calculationAddress(analysis.id)}
        target="_blank"
        rel="noopener"
      >
        calculation on paper
      </a>
      {analysis.field ? (
        <a className="underline hover:text-second" href={api.fieldAddress(analysis.id)}>
          stress field, VTK
        </a>
      ) : busy ? (
        <span className="text-second">writing the stress field …</span>
      ) : (
        may && (
          <button type="button" className="underline hover:text-second" onClick={onOrder}>
            write the stress field for other viewers
          </button>
        )
      )}
    </div>
  );
}
