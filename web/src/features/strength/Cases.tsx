/** The load cases in one direction: reserve with its band, how each would fail and where; and the sum of the one looked at. */
import type { CaseResult, Check } from "../../api/client";
import { figure } from "../../domain/figures";
import { MODES, STRENGTHS, reserve } from "../../domain/strength";
import { Explained } from "../../ui/Explained";
import { OriginMark } from "../../ui/OriginMark";

export function Cases({
  cases,
  here,
  onHere,
}: {
  cases: readonly CaseResult[];
  here: number;
  onHere: (place: number) => void;
}) {
  return (
    <table className="w-full border-collapse" data-testid="cases">
      <thead>
        <tr className="narrow text-right text-[11.5px] text-second">
          <th className="text-left font-normal">load case</th>
          <th className="font-normal">
            <Explained of="reserve">reserve</Explained>
          </th>
          <th className="pl-2 font-normal">
            <Explained of="band">band</Explained>
          </th>
          <th className="pl-3 text-left font-normal">
            <Explained of="case_stress">would fail</Explained>
          </th>
          <th className="pl-1 font-normal">mm up</th>
        </tr>
      </thead>
      <tbody>
        {cases.map((c, i) => (
          <tr
            key={c.id}
            data-case={c.name}
            aria-selected={i === here}
            onClick={() => onHere(i)}
            className={`cursor-pointer border-t border-rule text-right align-baseline ${i === here ? "bg-lit/60" : "hover:bg-raised"}`}
          >
            <td className="py-1 text-left leading-tight">
              <button
                type="button"
                className="text-left font-semibold"
                onClick={() => onHere(i)}
                aria-pressed={i === here}
              >
                {c.name}
              </button>
              <span className="narrow block text-[11.5px] text-second">{c.nature}</span>
            </td>
            <td
              className={`figure text-[15px] font-semibold ${c.reserve !== null && c.reserve < 1 ? "text-crown" : ""}`}
            >
              {reserve(c.reserve)}
            </td>
            <td className="figure pl-2 text-[11.5px] text-second">
              {c.low !== null && c.high !== null ? `${reserve(c.low)}…${reserve(c.high)}` : "–"}
            </td>
            <td className="narrow pl-3 text-left leading-tight">
              {c.reserve === null ? "no load acts" : MODES[c.mode]}
            </td>
            <td className="figure pl-1">{c.reserve === null ? "–" : figure(c.z_mm, 1)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** From the material's strengths to what may be used of them, line by line. */
export function Sum({ result, check, factor }: { result: CaseResult; check: Check; factor: number }) {
  return (
    <div className="space-y-2 py-2" data-testid="sum">
      <table className="w-full border-collapse">
        <tbody>
          {check.strengths.map((s) => (
            <tr key={s.name} className="border-b border-rule">
              <td className="figure w-11">{STRENGTHS[s.name]?.sign}</td>
              <td className="narrow text-second">{STRENGTHS[s.name]?.words}</td>
              <td className="figure text-right">{figure(s.value, 1)} MPa</td>
              <td className="figure pl-2 text-right text-[11.5px] text-second">
                {s.low !== null && s.high !== null ? `${figure(s.low, 1)}…${figure(s.high, 1)}` : ""}
              </td>
              <td className="w-5 pl-1 text-right">
                <OriginMark origin={s.origin} words={null} />
              </td>
            </tr>
          ))}
          {result.lines.map((l) => (
            <tr key={l.key} className="border-b border-rule" data-line={l.key}>
              <td className="figure">×</td>
              <td>{l.words}</td>
              <td className="figure text-right">{figure(l.value, 3)}</td>
              <td className="narrow pl-2 text-right text-[11.5px] text-second">
                {{ all: "on all", across: "on Z_t, Z_s", along: "on the others", load: "on the load" }[l.on]}
              </td>
              <td className="pl-1 text-right">
                <OriginMark origin={l.origin} words={null} />
              </td>
            </tr>
          ))}
          <tr className="border-b border-rule">
            <td className="figure">÷</td>
            <td>
              <Explained of="factor">required factor</Explained>
            </td>
            <td className="figure text-right">{figure(factor, 2)}</td>
            <td />
            <td />
          </tr>
          <tr className="border-b-[1.4px] border-ink">
            <td />
            <td className="font-semibold">
              <Explained of="knock_down">of the strength may be used</Explained>
            </td>
            <td className="figure text-right font-semibold">{figure(100 * result.kept, 1)} %</td>
            <td />
            <td />
          </tr>
        </tbody>
      </table>
      <dl className="narrow grid grid-cols-[1fr_auto] gap-x-3">
        {(
          [
            ["greatest pull across the layers", result.peak.interlayer_tension_mpa],
            ["greatest shear between layers", result.peak.interlayer_shear_mpa],
            ["greatest pull in a layer", result.peak.in_layer_mpa],
            ["greatest von Mises stress", result.peak.von_mises_mpa],
          ] as const
        ).map(([words, value]) => (
          <div key={words} className="contents">
            <dt className="text-second">{words}</dt>
            <dd className="figure text-right">{figure(value, 2)} MPa</dd>
          </div>
        ))}
        <dt className="text-second">
          <Explained of="deflection">max. deflection, at once at 23 °C</Explained>
        </dt>
        <dd className="figure text-right">{figure(result.deflection_mm, 2)} mm</dd>
        {result.screened !== null && (
          <>
            <dt className="text-second">the same without its own layers</dt>
            <dd className="figure text-right">
              {reserve(result.screened)}
              {result.reserve !== null &&
                ` (${result.reserve >= result.screened ? "+" : "−"}${figure(Math.abs(100 * (result.reserve / result.screened - 1)), 0)} %)`}
            </dd>
          </>
        )}
      </dl>
    </div>
  );
}
