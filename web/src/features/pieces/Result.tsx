/** What became of the part: pieces, sockets, pauses, what to mind; and the parts made of them. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect } from "react";

import { type Division, api } from "../../api/client";
import { useSend } from "../../api/queries";
import { figure, hours, measure } from "../../domain/figures";
import { ExactToo } from "../../ui/ExactToo";
import { Button, Trouble } from "../../ui/controls";

interface Props {
  division: Division;
  may: boolean;
  /** Whether this person may take the printable file away now. */
  gives: boolean;
  /** Parts that are still being read in. */
  coming: number;
  onComing: (count: number) => void;
}

export function Result({ division, may, gives, coming, onComing }: Props) {
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const made = division.made;
  useEffect(() => {
    if (coming > 0 && made.length >= coming) {
      onComing(0);
      void client.invalidateQueries({ queryKey: ["parts"] });
    }
  }, [coming, made.length, onComing, client]);
  const take = async () => {
    const works = await send(() => api.takePieces(division.id));
    if (works) onComing(works.length);
  };
  if (division.why) return <Trouble message={division.why} hint="Cut elsewhere, or set other sizes." />;
  if (!division.done) return null;
  const from = new Map(made.map((m) => [m.name, m]));
  const exact = division.pieces.filter((p) => p.uncarried !== null);
  const missing =
    exact.length === 0 ? null : exact.flatMap((p) => (p.uncarried ?? []).map((row) => ({ ...row, piece: p.name })));
  return (
    <div className="space-y-2" data-testid="division">
      <table className="w-full border-collapse">
        <thead>
          <tr className="narrow border-b-[1.4px] border-ink text-right align-bottom text-second">
            <th className="text-left font-semibold text-ink">Pieces</th>
            <th className="text-left font-normal">printed with</th>
            <th className="font-normal">height mm</th>
            <th className="font-normal">volume mm³</th>
            <th className="font-normal">h:mm</th>
            <th className="font-normal">support</th>
          </tr>
        </thead>
        <tbody>
          {division.pieces.map((p) => {
            const own = from.get(p.name);
            return (
              <tr key={p.name} className="border-b border-rule text-right" data-piece={p.name}>
                <td className="narrow text-left">
                  {p.count > 1 && <span className="figure">{p.count} × </span>}
                  {own ? (
                    <Link to="/parts/$partId/overhangs" params={{ partId: own.part }} className="underline">
                      {p.name}
                    </Link>
                  ) : (
                    p.name
                  )}
                  {own && own.revision > 0 && <span className="text-second"> rev {own.revision}</span>}
                </td>
                <td className="narrow text-left">{p.up_words}</td>
                <td className="figure">{figure(p.height_mm, 1)}</td>
                <td className="figure">{measure(p.volume_mm3)}</td>
                <td className="figure">{p.time_s === null ? "–" : hours(p.time_s)}</td>
                <td className={p.needs_support ? "text-crown" : "text-second"}>
                  {p.needs_support === null ? "–" : p.needs_support ? "wanted" : "none"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {division.pauses.map((p) => (
        <p key={p.layer} className="border-l-4 border-ochre-mark bg-raised px-3 py-1" data-testid="pause">
          <b>
            Pause after layer <span className="figure">{p.layer}</span>,{" "}
            <span className="figure">{figure(p.height_mm, 2)} mm</span> up:
          </b>{" "}
          {p.what}. A person must be there; nozzle and plate are hot.
        </p>
      ))}
      {division.sweep ? <Sweep words={division.words} sweep={division.sweep} /> : <p>{division.words}</p>}
      {division.seats.length > 0 && (
        <table className="w-full border-collapse" data-testid="seats">
          <thead>
            <tr className="narrow border-b border-ink text-right text-second">
              <th className="text-left font-normal">socket at, mm</th>
              <th className="font-normal">socket</th>
              <th className="font-normal">peg</th>
              <th className="font-normal">deep</th>
              <th className="font-normal">wall</th>
            </tr>
          </thead>
          <tbody>
            {division.seats.map((s, i) => (
              <tr key={i} className="figure border-b border-rule text-right">
                <td className="text-left">{s.place_mm.map((v) => figure(v, 1)).join(", ")}</td>
                <td>{figure(s.diameter_mm, 2)}</td>
                <td>{figure(s.peg_mm, 2)}</td>
                <td>{figure(s.depth_mm, 2)}</td>
                <td>{figure(s.wall_mm, 2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <ExactToo uncarried={missing} inexact={division.inexact} />
      {division.warnings.map((w) => (
        <p key={w} className="text-ochre">
          {w}
        </p>
      ))}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <div className="flex items-baseline gap-3">
        {may && division.stale_because.length === 0 && made.length === 0 && !division.sweep && (
          <Button onClick={() => void take()} disabled={coming > 0}>
            {coming > 0 ? "reading the pieces in …" : "Save them as parts"}
          </Button>
        )}
        <a href={api.pieceListAddress(division.id)} className="underline" download>
          pieces and pauses in words
        </a>
        {!division.sweep && gives && (
          <a href={api.pieceFileAddress(division.id)} className="underline" download>
            3MF, as printed
          </a>
        )}
        {!division.sweep && !gives && (
          <span className="text-second">
            The 3MF is given out to engineers and technicians, once the cautions are acknowledged.
          </span>
        )}
      </div>
    </div>
  );
}

const [WIDE, TALL, LEFT, FOOT] = [390, 118, 30, 18];

/** Clearance over the travel: as drawn, after droop, and what is wanted. */
function Sweep({ words, sweep }: { words: string; sweep: NonNullable<Division["sweep"]> }) {
  const most = Math.max(2 * sweep.needed_mm, ...sweep.drawn.map((v) => Math.min(v, 3)));
  const least = Math.min(0, ...sweep.drooped);
  const x = (share: number) => LEFT + share * (WIDE - LEFT - 6);
  const y = (gap: number) => 6 + ((most - Math.min(gap, most)) / (most - least)) * (TALL - FOOT - 6);
  const line = (values: readonly number[]) =>
    values.map((v, i) => `${i ? "L" : "M"}${x(sweep.shares[i] ?? 0).toFixed(1)} ${y(v).toFixed(1)}`).join(" ");
  return (
    <div data-testid="sweep">
      <p className={`border-l-4 bg-raised px-3 py-1 ${sweep.holds ? "border-moss" : "border-crown"}`}>
        <b className={sweep.holds ? "" : "text-crown"}>{sweep.holds ? "Runs free." : "Does not run free."}</b> {words}
      </p>
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className="mt-1 w-full"
        role="img"
        aria-label={`Clearance over the travel, ${words}`}
      >
        <line x1={LEFT} x2={WIDE - 6} y1={y(0)} y2={y(0)} stroke="var(--color-ink)" strokeWidth="1" />
        <line
          x1={LEFT}
          x2={WIDE - 6}
          y1={y(sweep.needed_mm)}
          y2={y(sweep.needed_mm)}
          stroke="var(--color-crown)"
          strokeWidth="1"
          strokeDasharray="4 3"
        />
        <path d={line(sweep.drawn)} fill="none" stroke="var(--color-bark)" strokeWidth="1.1" strokeDasharray="2 2" />
        <path d={line(sweep.drooped)} fill="none" stroke="var(--color-moss)" strokeWidth="1.8" />
        <g className="figure" fontSize="10.5" fill="var(--color-second)">
          <text x={LEFT - 4} y={y(sweep.needed_mm) + 3} textAnchor="end">
            {figure(sweep.needed_mm, 1)}
          </text>
          <text x={LEFT - 4} y={y(0) + 3} textAnchor="end">
            0
          </text>
          <text x={LEFT} y={TALL - 4}>
            start
          </text>
          <text x={WIDE - 6} y={TALL - 4} textAnchor="end">
            end of travel
          </text>
          <text x={(WIDE + LEFT) / 2} y={TALL - 4} textAnchor="middle">
            mm: drooped, full; drawn, dotted; wanted, dashed
          </text>
        </g>
      </svg>
    </div>
  );
}
