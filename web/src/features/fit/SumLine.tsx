/** One line of a sum: what it is, and its value. */
import type { ReactNode } from "react";

import type { NumberKey } from "../../domain/explained";
import { Named } from "../../ui/Explained";

interface Props {
  words: string;
  /** What explains its number. */
  of?: NumberKey;
  children: ReactNode;
}

export function SumLine({ words, of, children }: Props) {
  return (
    <tr className="border-t border-rule">
      <td className="py-0.5">
        <Named of={of}>{words}</Named>
      </td>
      <td className="figure text-right">{children}</td>
    </tr>
  );
}
