/** Faces that are seen: how high the steps of their layers are, what takes the plate's texture, what would hang. */
import type { FitState } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Button } from "../../ui/controls";

type Row = FitState["seen"][number];

interface Props {
  rows: readonly Row[];
  /** Null for those who may not, or where a texture is made already. */
  onHide: (row: Row) => (() => void) | null;
}

const percent = (share: number) => `${figure(100 * share, 0)} %`;

export function Seen({ rows, onHide }: Props) {
  return (
    <section className="border-t border-ink" aria-label="Faces that are seen">
      <table className="w-full border-collapse" data-testid="seen">
        <thead>
          <tr className="narrow text-left text-second">
            <th className="px-3 pt-1.5 pb-1 text-[13px] font-semibold text-ink">Seen</th>
            <th className="pr-2 text-right font-normal">steps of layers, mm</th>
            <th className="pr-2 text-right font-normal">on the plate</th>
            <th className="pr-2 text-right font-normal">hangs</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const hide = onHide(r);
            return (
              <tr key={r.id} className="border-t border-rule" data-seen={r.name}>
                <td className="px-3 py-1 font-semibold">{r.name}</td>
                <td className="figure pr-2 text-right">
                  {figure(r.mean_mm, 3)} <span className="text-second">to {figure(r.worst_mm, 3)}</span>
                </td>
                <td className="figure pr-2 text-right">{percent(r.plate)}</td>
                <td className={`figure pr-2 text-right ${r.hangs > 0.005 ? "text-crown" : ""}`}>{percent(r.hangs)}</td>
                <td className="py-0.5 pr-3 text-right">
                  {hide && (
                    <Button plain onClick={hide}>
                      Hide its layers
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
