/** Sizes that together leave a gap, each as it is printed: in the middle, at worst, by the squares of their doubts. */
import type { FitState, OtherFace } from "../../api/fit";
import { figure } from "../../domain/figures";
import { signed } from "../../domain/fits";
import { newId } from "../../domain/needs";
import { Text } from "../../ui/Text";
import { Button, Select } from "../../ui/controls";
import { SumLine } from "./SumLine";
import type { Job, Stacked } from "./rows";

interface Props {
  mates: Job["mates"];
  told: FitState["stack"];
  /** The touching faces of this part and of others. */
  own: readonly (readonly [string, string])[];
  others: readonly OtherFace[];
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<"stack" | "least" | "most", unknown>>) => void) | null;
}

export function Stack({ mates, told, own, others, onChange }: Props) {
  const { stack } = mates;
  const put = (next: readonly Partial<Stacked>[]) => onChange?.({ stack: next });
  const options = [
    ["", stack.length > 0 ? "another size …" : "a size …"] as const,
    ...own.map(([id, name]) => [`|${id}`, name] as const),
    ...others.map((o) => [`${o.part}|${o.touch}`, o.name] as const),
  ];
  const add = (key: string) => {
    const [part, touch] = key.split("|");
    if (touch) put([...stack, { id: newId(), part: part || null, touch, less: stack.length > 0 }]);
  };
  return (
    <section className="border-t border-ink px-3 pb-2" aria-label="Stack of sizes">
      <h3 className="pt-1.5 pb-1 font-semibold">Stack of sizes</h3>
      {told && (
        <table className="w-full" data-testid="stack">
          <tbody>
            {told.rows.map((r, i) => (
              <tr key={r.id} className="border-t border-rule">
                <td className="w-6 py-0.5">
                  <button
                    type="button"
                    className="figure px-1 hover:bg-raised"
                    aria-label={r.less ? "takes away from the gap" : "adds to the gap"}
                    onClick={() => put(stack.map((s, k) => (k === i ? { ...s, less: !s.less } : s)))}
                  >
                    {r.less ? "−" : "+"}
                  </button>
                </td>
                <td>{r.name ?? "a face that is not known any more"}</td>
                <td className="figure text-right">
                  {r.mm === null ? "–" : `${figure(r.mm, 2)} ± ${figure(r.doubt ?? 0, 2)} mm`}
                </td>
                <td className="w-20 text-right">
                  {onChange && (
                    <Button plain onClick={() => put(stack.filter((s) => s.id !== r.id))}>
                      Take out
                    </Button>
                  )}
                </td>
              </tr>
            ))}
            {told.middle_mm !== null && <Sum told={told} />}
          </tbody>
        </table>
      )}
      {onChange && (
        <div className="mt-1 grid grid-cols-[14rem_1fr_1fr] items-end gap-x-2">
          <Select label="Size" quiet value="" options={options} onPick={add} />
          {(["least", "most"] as const).map((end) => (
            <Text
              key={end}
              label={`${end} gap`}
              hint="mm"
              now={mates[end]?.typed ?? ""}
              onWrite={(v) => onChange({ [end]: v || null })}
            />
          ))}
        </div>
      )}
    </section>
  );
}

function Sum({ told }: { told: NonNullable<FitState["stack"]> }) {
  const span = (ends: readonly number[] | null) => ends?.map((v) => signed(v, 2)).join(" … ") ?? "";
  const least = Math.min(...(told.worst_mm ?? [0]));
  return (
    <tr>
      <td colSpan={4} className="pb-1">
        <table className="w-full">
          <tbody>
            <SumLine words="the gap they leave, in the middle">
              <b className={(told.middle_mm ?? 0) < 0 ? "text-crown" : ""}>{signed(told.middle_mm ?? 0, 2)} mm</b>
            </SumLine>
            <SumLine words="at worst">
              <span className={least < 0 ? "text-crown" : ""}>{span(told.worst_mm)} mm</span>
            </SumLine>
            <SumLine words="by the squares of all doubts">{span(told.squares_mm)} mm</SumLine>
            {told.out_ppm !== null && (
              <SumLine words="of a million beyond the limits">{figure(told.out_ppm, 0)}</SumLine>
            )}
          </tbody>
        </table>
      </td>
    </tr>
  );
}
