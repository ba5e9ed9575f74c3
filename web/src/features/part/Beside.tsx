/** Another revision, or another part, laid over this one: what it has more, what it lacks, and the figures of both. */
import { useNavigate } from "@tanstack/react-router";

import type { Beside as Told, Part } from "../../api/client";
import { useCurrency, useParts } from "../../api/queries";
import { clock, figure, measure } from "../../domain/figures";
import { reserve } from "../../domain/strength";
import { Button, Heading, Select, Trouble } from "../../ui/controls";

type Side = Told["one"];

const LINES: readonly {
  name: string;
  unit: string;
  of: (s: Side) => number | null;
  write: (v: number | null) => string;
  better: "less" | "more" | null;
}[] = [
  { name: "volume", unit: "mm³", of: (s) => s.volume_mm3, write: measure, better: null },
  { name: "height", unit: "mm", of: (s) => s.height_mm, write: (v) => figure(v, 1), better: null },
  { name: "plastic", unit: "g", of: (s) => s.grams, write: (v) => figure(v, 1), better: "less" },
  { name: "time of one copy", unit: "h:mm:ss", of: (s) => s.seconds, write: clock, better: "less" },
  { name: "cost of one copy", unit: "¤", of: (s) => s.cost, write: (v) => figure(v, 2), better: "less" },
  { name: "needs support", unit: "mm²", of: (s) => s.needing_area_mm2, write: measure, better: "less" },
  { name: "support", unit: "mm³", of: (s) => s.support_volume_mm3, write: measure, better: "less" },
  { name: "thinnest wall", unit: "mm", of: (s) => s.thinnest_mm, write: (v) => figure(v, 2), better: null },
  { name: "least reserve", unit: "", of: (s) => s.reserve, write: (v) => reserve(v), better: "more" },
];

interface Props {
  part: Part;
  told: Told | null;
  problem: { message: string; hint: string } | null;
  onPick: (other: string | null) => void;
}

export function Beside({ part, told, problem, onPick }: Props) {
  const currency = useCurrency();
  const navigate = useNavigate();
  return (
    <div className="space-y-3" data-testid="beside">
      <Heading
        aside={
          <Button plain className="!px-2 !py-0" onClick={() => onPick(null)}>
            Close
          </Button>
        }
      >
        Beside another
      </Heading>
      <Other part={part} here={told?.other.id ?? ""} onPick={onPick} />
      {problem && <Trouble message={problem.message} hint={problem.hint} />}
      {!told && !problem && <p className="text-second">Laying them over each other …</p>}
      {told && (
        <>
          <p>
            {told.why ?? (
              <>
                The other has <b className="figure">{measure(told.more_mm3)}</b> mm³ more and lacks{" "}
                <b className="figure">{measure(told.less_mm3)}</b> mm³ of this one.
              </>
            )}
          </p>
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b-[1.4px] border-ink text-right align-bottom">
                <th />
                {[told.one, told.other].map((s) => (
                  <th key={s.id} className="max-w-[130px] pl-2 font-semibold">
                    <button
                      type="button"
                      className="hover:underline"
                      onClick={() => void navigate({ to: "/parts/$partId/facts", params: { partId: s.id } })}
                    >
                      {s.name}
                      {s.revision > 1 && <span className="figure text-second"> rev {s.revision}</span>}
                    </button>
                    <span className="narrow block font-normal text-second">{s.direction ?? "no direction yet"}</span>
                  </th>
                ))}
                <th className="w-12" />
              </tr>
            </thead>
            <tbody>
              {LINES.map((line) => (
                <Line key={line.name} line={line} one={told.one} other={told.other} currency={currency} />
              ))}
            </tbody>
          </table>
        </>
      )}
    </div>
  );
}

function Line({
  line,
  one,
  other,
  currency,
}: {
  line: (typeof LINES)[number];
  one: Side;
  other: Side;
  currency: string;
}) {
  const values = [one, other].map(line.of);
  const [a = null, b = null] = values;
  const best =
    line.better && a !== null && b !== null && a !== b ? (line.better === "less" ? Math.min : Math.max)(a, b) : null;
  return (
    <tr className="border-b border-rule text-right">
      <th className="py-0.5 text-left font-normal text-second">{line.name}</th>
      {values.map((v, i) => (
        <td
          key={i}
          className={`figure pl-2 ${v !== null && v === best ? "font-semibold" : ""} ${line.name === "least reserve" && v !== null && v < 1 ? "text-crown" : ""}`}
        >
          {line.write(v)}
          {v !== null && v === best && <span aria-label="better"> ◂</span>}
        </td>
      ))}
      <td className="figure pl-1.5 text-left text-[11px] text-second">{line.unit === "¤" ? currency : line.unit}</td>
    </tr>
  );
}

/** Which one: the part's own revisions first. */
interface OtherProps {
  part: Part;
  /** What it is picked for. */
  label?: string;
  here?: string;
  onPick: (other: string | null) => void;
}

/** Another part, the revisions of this one first. */
export function Other({ part, label = "Compare with", here = "", onPick }: OtherProps) {
  const parts = useParts().data ?? [];
  const near = new Set([part.id, part.revises]);
  for (let grew = true; grew;) {
    const before = near.size;
    for (const p of parts) if (near.has(p.id) || (p.revises && near.has(p.revises))) near.add(p.id).add(p.revises);
    grew = near.size > before;
  }
  const name = (p: (typeof parts)[number]) => `${p.name}${p.revision > 1 ? `, rev ${p.revision}` : ""}`;
  const others = parts.filter((p) => p.id !== part.id);
  const sorted = [...others.filter((p) => near.has(p.id)), ...others.filter((p) => !near.has(p.id))];
  if (sorted.length === 0) return null;
  return (
    <Select
      quiet
      label={label}
      value={here}
      options={[["", `${label.toLowerCase()} …`], ...sorted.map((p) => [p.id, name(p)] as const)]}
      onPick={(id) => onPick(id || null)}
    />
  );
}
