/** What became of the part: pieces, sockets, pauses, what to mind; and the parts made of them. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect } from "react";

import { type Division, api } from "../../api/client";
import { useSend } from "../../api/queries";
import { figure, hours, measure } from "../../domain/figures";
import { Button, Trouble } from "../../ui/controls";

interface Props {
  division: Division;
  may: boolean;
  /** Parts that are still being read in. */
  coming: number;
  onComing: (count: number) => void;
}

export function Result({ division, may, coming, onComing }: Props) {
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
  if (division.work.problem) return <Trouble message={division.work.problem.message} hint={division.work.problem.hint} />;
  if (division.why) return <Trouble message={division.why} hint="Cut elsewhere, or set other sizes." />;
  if (!division.done) return null;
  const from = new Map(made.map((m) => [m.name, m]));
  return (
    <div className="space-y-2" data-testid="division">
      {division.stale && (
        <p className="border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
          The part, its process or its direction have changed since: these pieces are of before.
        </p>
      )}
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
                <td className={p.needs_support ? "text-crown" : "text-second"}>{p.needs_support ? "wanted" : "none"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {division.pauses.map((p) => (
        <p key={p.layer} className="border-l-4 border-ochre-mark bg-raised px-3 py-1" data-testid="pause">
          <b>
            Pause after layer <span className="figure">{p.layer}</span>, <span className="figure">{figure(p.height_mm, 2)} mm</span> up:
          </b>{" "}
          {p.what}. A person must be there; nozzle and plate are hot.
        </p>
      ))}
      <p>{division.words}</p>
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
      {division.warnings.map((w) => (
        <p key={w} className="text-ochre">
          {w}
        </p>
      ))}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <div className="flex items-baseline gap-3">
        {may && !division.stale && made.length === 0 && (
          <Button onClick={() => void take()} disabled={coming > 0}>
            {coming > 0 ? "reading the pieces in …" : "Make them parts"}
          </Button>
        )}
        <a href={api.pieceListAddress(division.id)} className="underline" download>
          pieces and pauses in words
        </a>
        <a href={api.pieceFileAddress(division.id)} className="underline" download>
          3MF, as printed
        </a>
      </div>
    </div>
  );
}
