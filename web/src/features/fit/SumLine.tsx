/** One line of a sum: what it is, and its value. */
import type { ReactNode } from "react";

export function SumLine({ words, children }: { words: string; children: ReactNode }) {
  return (
    <tr className="border-t border-rule">
      <td className="py-0.5">{words}</td>
      <td className="figure text-right">{children}</td>
    </tr>
  );
}
