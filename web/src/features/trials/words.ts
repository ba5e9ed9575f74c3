/** The words of a trial. */
import type { How, Trial } from "../../api/trials";
import { figure } from "../../domain/figures";

export const HOWS: readonly How[] = ["between layers", "across lines", "pulled out", "crushed", "bent", "not broken"];
export const VERDICTS: readonly Trial["verdict"][] = ["passed", "failed", "unclear"];

/** A load in the unit that it was typed in. */
export const amount = (n: number | null, unit: string) =>
  n === null ? "–" : unit === "N·mm" ? `${figure(n / 1000, 2)} N·m` : `${figure(n, n < 100 ? 1 : 0)} ${unit}`;
