/** What came in: the facts, what was mended, bores and flats shown on the part when pointed at. */
import { useMemo, useState } from "react";

import type { Part } from "../../api/client";
import { useSession, useShape } from "../../api/queries";
import { figure, measure, moment, size } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { directionWords, toVec3 } from "../../domain/vectors";
import { Specimen } from "../../scene/Specimen";
import { decodeShape } from "../../scene/shape";
import { ExactToo } from "../../ui/ExactToo";
import { Heading } from "../../ui/controls";
import { Scaled } from "./Scaled";

const ALONG: Record<string, string> = { "+x": "x", "−x": "x", "+y": "y", "−y": "y", "+z": "z", "−z": "z" };

function axisWords(axis: readonly number[]): string {
  const words = directionWords(toVec3(axis));
  const first = words.split(" ")[0] ?? "";
  return words.endsWith("up")
    ? (ALONG[first] ?? first)
    : toVec3(axis)
        .map((v) => figure(v, 2))
        .join(" ");
}

export function PartFacts({ part }: { part: Part }) {
  const up = useMemo(() => toVec3(part.choice?.up ?? [0, 0, 1]), [part.choice?.up]);
  const [hot, setHot] = useState(0);
  const role = useSession().data?.role;
  const data = useShape(part.id, part.view);
  const shape = useMemo(() => (data.data ? decodeShape(data.data) : null), [data.data]);
  const f = part.facts;
  const low = f.bbox_mm[0] ?? [];
  const high = f.bbox_mm[1] ?? [];
  const rows: [string, string, string][] = [
    ["box", size(high.map((v, i) => v - (low[i] ?? 0))), "mm"],
    ["volume", f.volume_mm3 === null ? "open surface" : measure(f.volume_mm3), f.volume_mm3 === null ? "" : "mm³"],
    ["surface", measure(f.area_mm2), "mm²"],
    ["centre of mass", f.centre_of_mass_mm.map((v) => figure(v, 2)).join("  "), "mm"],
    ["bodies", String(f.bodies), ""],
    ["triangles", figure(f.triangles, 0), ""],
  ];
  const light = (mark: number) => ({
    onPointerEnter: () => setHot(mark),
    onPointerLeave: () => setHot(0),
    onFocus: () => setHot(mark),
    onBlur: () => setHot(0),
    tabIndex: 0,
    "data-hot": hot === mark || undefined,
    className: `border-b border-rule ${hot === mark ? "bg-lit" : "hover:bg-raised"}`,
  });
  return (
    <div className="grid h-full min-h-0 grid-cols-[430px_1fr]">
      <section className="flex min-h-0 flex-col gap-4 overflow-y-auto border-r border-ink p-4">
        <div>
          <Heading>What came in</Heading>
          <p className="text-second">
            {part.file_name} · {part.file_format.toUpperCase()} · one unit ={" "}
            {figure(part.scale_mm, part.scale_mm < 1 ? 3 : 1)} mm · {part.by}, {moment(part.created)}
          </p>
          {part.note && <p className="mt-2">{part.note}</p>}
        </div>
        <table className="w-full border-collapse">
          <tbody>
            {rows.map(([name, value, unit]) => (
              <tr key={name} className="border-b border-rule">
                <th className="py-1 text-left font-normal text-second">{name}</th>
                <td className="figure text-right font-semibold">{value}</td>
                <td className="figure w-12 pl-2 text-second">{unit}</td>
              </tr>
            ))}
            <tr className="border-b border-rule">
              <th className="py-1 text-left font-normal text-second">surface is</th>
              <td className="text-right font-semibold">
                {f.watertight ? "closed" : <span className="text-crown">open: no volume, no layers</span>}
              </td>
              <td />
            </tr>
          </tbody>
        </table>
        {part.exact && part.uncarried.length > 0 && <ExactToo uncarried={part.uncarried} />}
        {part.warnings.length > 0 && (
          <div className="border-l-4 border-ochre-mark bg-raised px-3 py-2">
            <p className="font-semibold text-ochre">Repaired or assumed</p>
            <ul>
              {part.warnings.map((w, i) => (
                <li key={i}>{w.message}</li>
              ))}
            </ul>
          </div>
        )}
        <div>
          <Heading>Bores</Heading>
          {f.bores === null ? (
            <p className="text-second" role="status">
              Looking for bores …
            </p>
          ) : f.bores.length === 0 ? (
            <p className="text-second">No full bore found.</p>
          ) : (
            <table className="w-full border-collapse" data-testid="bores">
              <thead>
                <tr className="narrow border-b-[1.4px] border-ink text-right text-second">
                  <th className="text-left font-normal">no.</th>
                  <th className="font-normal">diameter mm</th>
                  <th className="font-normal">depth mm</th>
                  <th className="font-normal">axis</th>
                  <th className="font-normal">ends</th>
                </tr>
              </thead>
              <tbody>
                {f.bores.map((b, i) => (
                  <tr key={i} {...light(i + 1)}>
                    <td className="figure py-1">{i + 1}</td>
                    <td className="figure text-right font-semibold">{figure(b.diameter_mm, 2)}</td>
                    <td className="figure text-right">{figure(b.depth_mm, 2)}</td>
                    <td className="figure text-right">{axisWords(b.axis)}</td>
                    <td className="text-right">{b.through ? "through" : "blind"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <div>
          <Heading>Large flats</Heading>
          {f.flats.length === 0 ? (
            <p className="text-second">No flat of at least 1 % of the surface.</p>
          ) : (
            <table className="w-full border-collapse" data-testid="flats">
              <thead>
                <tr className="narrow border-b-[1.4px] border-ink text-right text-second">
                  <th className="text-left font-normal">no.</th>
                  <th className="text-left font-normal">faces</th>
                  <th className="font-normal">area mm²</th>
                </tr>
              </thead>
              <tbody>
                {f.flats.map((b, i) => (
                  <tr key={i} {...light(-1 - i)}>
                    <td className="figure py-1">{i + 1}</td>
                    <td className="figure">{directionWords(toVec3(b.normal)).replace(" up", "")}</td>
                    <td className="figure text-right font-semibold">{measure(b.area_mm2)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        {mayEdit(role) && <Scaled part={part} />}
      </section>
      <section className="relative min-h-0">
        {shape ? (
          <Specimen
            shape={shape}
            up={up}
            limit={null}
            layer={0.2}
            hot={hot}
            onPoint={setHot}
            label={`${part.name}, ${size(high.map((v, i) => v - (low[i] ?? 0)))} mm`}
          />
        ) : (
          <p className="p-4 text-second">{data.error ? data.error.message : "Drawing the part …"}</p>
        )}
        <p className="pointer-events-none absolute right-4 top-4 text-second" aria-live="polite">
          {hot > 0 &&
            `bore ${hot}: ⌀ ${figure(f.bores?.[hot - 1]?.diameter_mm, 2)} mm, ${figure(f.bores?.[hot - 1]?.depth_mm, 1)} mm deep`}
          {hot < 0 && `flat ${-hot}: ${measure(f.flats[-hot - 1]?.area_mm2)} mm²`}
          {hot === 0 && "Point at a bore or a flat, here or in the lists."}
        </p>
      </section>
    </div>
  );
}
