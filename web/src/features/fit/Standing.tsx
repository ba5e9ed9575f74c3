/** Slender pins, threads and snaps that stand on their layers: found by themselves, and asked what bends them. */
import type { FitState } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Button } from "../../ui/controls";

type Row = FitState["standing"][number];

interface Props {
  rows: readonly Row[];
  /** Null for those who may not. */
  onSay: ((row: Row) => void) | null;
}

export function Standing({ rows, onSay }: Props) {
  return (
    <section className="border-t border-ink" aria-label="Stands across its layers">
      <h3 className="px-3 pt-1.5 font-semibold">Stands across its layers</h3>
      <p className="px-3 pb-1 text-second">A push from the side breaks it between two of them.</p>
      <ul>
        {rows.map((r) => (
          <li key={r.at.join()} className="flex items-center border-t border-rule px-3 py-1" data-testid="standing">
            <span>
              {r.kind === "snap" ? "snap" : `${r.kind} ⌀`}{" "}
              <span className="figure">
                {figure(r.size_mm, 2)} × {figure(r.length_mm, 1)} mm
              </span>{" "}
              <span className="narrow text-second">
                at <span className="figure">{r.at.map((v) => figure(v, 1)).join(", ")}</span>
              </span>
            </span>
            {r.kind === "thread" && (
              <span className="narrow ml-auto text-second">it cracks at its heel: print it lying</span>
            )}
            {onSay && r.kind !== "thread" && (
              <Button plain onClick={() => onSay(r)} className="ml-auto">
                {r.kind === "pin" ? "Say what pushes it" : "See what it bears"}
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
