/** What would fix it, every stocked material, perimeters against infill, and what is held: side by side, each with its numbers. */
import type { Fix, Pair, DirectionAnalysis, Solution, Stock } from "../../api/client";
import { figure, hours, measure } from "../../domain/figures";
import { INK, RAISED } from "../../domain/palette";
import { RAMP } from "../../domain/ramp";
import { MODES, PLENTY, reserve } from "../../domain/strength";
import { isOpen } from "../../domain/work";
import { Button, Progress } from "../../ui/controls";

const plus = (text: string, value: number) => (value > 0 ? `+${text}` : text);

export function Fixes({ result, mayEdit, onAgain }: { result: Solution; mayEdit: boolean; onAgain: () => void }) {
  const { fixes } = result;
  if (fixes === null)
    return <p className="py-2 text-second">Calculated once the direction is solved with its own layers.</p>;
  return (
    <div className="py-2" data-testid="fixes">
      {fixes.length === 0 && <p className="text-second">Every case holds: nothing needs fixing.</p>}
      {fixes.length > 0 && (
        <table className="w-full border-collapse">
          <thead>
            <tr className="narrow text-right text-[11.5px] text-second">
              <th className="text-left font-normal">for the weakest case</th>
              <th className="font-normal">reserve</th>
              <th className="pl-2 font-normal">g</th>
              <th className="pl-2 font-normal">h:mm</th>
            </tr>
          </thead>
          <tbody>
            {fixes.map((f: Fix) => (
              <tr
                key={`${f.key}-${f.words}`}
                className="border-t border-rule text-right align-baseline"
                data-fix={f.key}
              >
                <td className="py-1 text-left leading-tight">{f.words}</td>
                <td className={`figure font-semibold ${f.reserve < 0.995 ? "text-crown" : ""}`}>
                  {reserve(f.reserve)}
                </td>
                <td className="figure pl-2">{f.mass_g === null ? "–" : plus(figure(f.mass_g, 1), f.mass_g)}</td>
                <td className="figure pl-2">
                  {f.seconds === null ? "–" : plus((f.seconds < 0 ? "−" : "") + hours(Math.abs(f.seconds)), f.seconds)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {fixes.some((f) => f.key === "neck" || f.key === "radius") && (
        <p className="narrow mt-1 text-second">
          Neck and radius are sums on the section: change the part, then check it again.
        </p>
      )}
      {result.fixes_stale && (
        <p className="mt-2 flex items-center gap-3 border-l-4 border-ochre-mark bg-raised px-3 py-1">
          <span className="flex-1">Calculated for other service conditions.</span>
          {mayEdit && <Button onClick={onAgain}>Calculate again</Button>}
        </p>
      )}
    </div>
  );
}

export function Materials({ rows, currency }: { rows: readonly Stock[]; currency: string }) {
  return (
    <table className="my-2 w-full border-collapse" data-testid="stock">
      <thead>
        <tr className="narrow text-right text-[11px] leading-tight text-second">
          <th className="text-left font-normal">material</th>
          <th className="font-normal">reserve</th>
          <th className="pl-1.5 font-normal" title="At once, at 23 °C; heat and time add to it">
            moves at
            <br />
            once, mm
          </th>
          <th className="pl-1.5 font-normal">
            heat
            <br />
            left °C
          </th>
          <th className="pl-1.5 font-normal">creep ×</th>
          <th className="pl-1.5 font-normal">
            shrinks
            <br />%
          </th>
          <th className="pl-1.5 font-normal">
            cost
            <br />
            {currency}
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr
            key={`${r.name}-${String(r.own)}`}
            data-material={r.name}
            className={`border-t border-rule text-right align-baseline ${r.used ? "bg-lit/60 font-semibold" : ""}`}
            title={`${MODES[r.mode] ?? ""} under ${r.case}`}
          >
            <td className="narrow py-0.5 text-left leading-tight">
              {r.name}
              {r.own && <span className="text-second"> □</span>}
              <span className="block text-[10.5px] font-normal text-second">
                {[r.sticky ? "supports stick" : "", r.warps ? "warps" : ""].filter(Boolean).join(", ")}
              </span>
            </td>
            <td className={`figure ${r.reserve !== null && r.reserve < 1 ? "text-crown" : ""}`}>
              {reserve(r.reserve)}
            </td>
            <td className="figure pl-1.5">{measure(r.deflection_mm)}</td>
            <td className={`figure pl-1.5 ${r.heat_margin_c !== null && r.heat_margin_c < 10 ? "text-ochre" : ""}`}>
              {figure(r.heat_margin_c, 0)}
            </td>
            <td className="figure pl-1.5">{figure(r.creep, 2)}</td>
            <td className="figure pl-1.5">{figure(r.shrinkage_pct, 1)}</td>
            <td className="figure pl-1.5">{figure(r.cost, 2)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Rows of perimeters, columns of infill; the reserve on the ramp, the plastic below it. */
export function Infill({
  analysis,
  result,
  mayEdit,
  now,
  onExplore,
  onStop,
}: {
  analysis: DirectionAnalysis;
  result: Solution;
  mayEdit: boolean;
  now: { perimeters: number; infill: number };
  onExplore: () => void;
  onStop: (work: string) => void;
}) {
  const pairs = result.explored;
  const counts = [...new Set(pairs.map((p) => p.perimeters))];
  const fills = [...new Set(pairs.map((p) => p.infill))];
  const at = (n: number, f: number): Pair | undefined => pairs.find((p) => p.perimeters === n && p.infill === f);
  const work = analysis.exploring;
  return (
    <div className="space-y-2 py-2" data-testid="infill">
      {pairs.length > 0 && (
        <table className="w-full border-collapse text-center">
          <caption className="narrow pb-1 text-left text-second">
            least reserve, and grams of plastic; on coarse voxels, to compare pairs
          </caption>
          <thead>
            <tr className="figure text-[11px] text-second">
              <th className="text-left font-normal">lines</th>
              {fills.map((f) => (
                <th key={f} className="font-normal">
                  {figure(100 * f, 0)} %
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {counts.map((n) => (
              <tr key={n}>
                <th className="figure text-left font-normal">{n}</th>
                {fills.map((f) => {
                  const pair = at(n, f);
                  const share = Math.min(1, (pair?.reserve ?? 0) / PLENTY);
                  const place = Math.min(RAMP.length - 1, Math.floor(share * RAMP.length));
                  const here = n === now.perimeters && Math.abs(f - now.infill) < 1e-6;
                  return (
                    <td
                      key={f}
                      data-pair={`${n}-${f}`}
                      title={pair?.reserve === null ? pair.case : undefined}
                      style={pair ? { background: RAMP[place], color: place > 3 ? RAISED : INK } : undefined}
                      className={`figure border border-paper leading-tight ${here ? "outline outline-2 -outline-offset-2 outline-ochre-mark" : ""}`}
                    >
                      {pair ? (
                        <>
                          <span
                            className={
                              pair.reserve !== null && pair.reserve < 1
                                ? "underline decoration-crown decoration-2"
                                : "font-semibold"
                            }
                          >
                            {reserve(pair.reserve)}
                          </span>
                          <span className="block text-[10px]">{figure(pair.mass_g, 0)}</span>
                        </>
                      ) : (
                        "·"
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {pairs.length > 0 && (
        <p className="narrow text-second">
          Underlined in crown: fails. Framed: this job's process. The paler, the weaker.
        </p>
      )}
      {pairs.length === 0 && !isOpen(work ?? undefined) && (
        <p className="text-second">
          Perimeters from 2 to 8 against infill from none to full, each solved on this part; some minutes.
        </p>
      )}
      {work && isOpen(work) ? (
        <Progress
          doing={work.doing}
          done={work.done}
          total={work.total}
          onCancel={mayEdit ? () => onStop(work.id) : undefined}
        />
      ) : (
        mayEdit && (
          <div className="flex items-center gap-3">
            <Button plain={pairs.length > 0 && !result.explored_stale} onClick={onExplore}>
              {pairs.length ? "Calculate the pairs again" : "Calculate the pairs"}
            </Button>
            {result.explored_stale && <span className="text-ochre">Calculated for other service conditions.</span>}
          </div>
        )
      )}
    </div>
  );
}

export function Held({ result }: { result: Solution }) {
  const bolts = result.cases.flatMap((c) => c.fasteners.map((f) => ({ ...f, case: c.name })));
  return (
    <div className="space-y-3 py-2" data-testid="held">
      {result.movements.map((m) => (
        <p key={m.id}>
          A point that may move <b className="figure">{figure(m.permitted_mm, 2)} mm</b> moves{" "}
          <b className={`figure ${m.moved_mm > m.permitted_mm ? "text-crown" : ""}`}>{figure(m.moved_mm, 2)} mm</b>{" "}
          under {m.case}, at once at 23 °C: heat and time add to it.
        </p>
      ))}
      {bolts.length > 0 && (
        <table className="w-full border-collapse">
          <thead>
            <tr className="narrow text-right text-[11px] text-second">
              <th className="text-left font-normal">bolt, case</th>
              <th className="font-normal">pull N</th>
              <th className="pl-1.5 font-normal">shear N</th>
              <th className="pl-1.5 font-normal">prying N·mm</th>
              <th className="pl-1.5 font-normal">washer MPa</th>
            </tr>
          </thead>
          <tbody>
            {bolts.map((b) => (
              <tr key={`${b.name}-${b.case}`} className="border-t border-rule text-right">
                <td className="narrow text-left">
                  {b.name}, {b.case}
                </td>
                <td className="figure">{figure(b.pull_n, 0)}</td>
                <td className="figure pl-1.5">{figure(b.shear_n, 0)}</td>
                <td className="figure pl-1.5">{figure(b.prying_nmm, 0)}</td>
                <td className={`figure pl-1.5 ${b.pressure_mpa > b.pressure_limit_mpa ? "text-crown" : ""}`}>
                  {figure(b.pressure_mpa, 1)} / {figure(b.pressure_limit_mpa, 0)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {result.perforated.map((p) => (
        <p key={p.low_mm}>
          <b>{p.holes} holes</b> perforate the layers from <span className="figure">{figure(p.low_mm, 1)}</span> to{" "}
          <span className="figure">{figure(p.high_mm, 1)} mm</span> together: net section{" "}
          <span className="figure">
            {measure(p.net_mm2)} of {measure(p.gross_mm2)} mm²
          </span>
          .
        </p>
      ))}
      {result.movements.length + bolts.length + result.perforated.length === 0 && (
        <p className="text-second">
          No deflection is limited, nothing is bolted, and no layer is perforated by several holes.
        </p>
      )}
      <ul className="narrow list-disc space-y-0.5 pl-4 text-second" data-testid="notes">
        {result.notes.map((n) => (
          <li key={n.message}>{n.message}</li>
        ))}
        <li>
          Left out: <span className="figure">{figure(result.excluded_mm[0], 2)} mm</span> round held faces,{" "}
          <span className="figure">{figure(result.excluded_mm[1], 2)} mm</span> round loaded ones. Voxels of{" "}
          <span className="figure">{figure(result.voxel_mm, 2)} mm</span>.
        </li>
      </ul>
    </div>
  );
}
