/** Steps that were ticked while the server could not be reached: kept by the browser until they are sent. */
export interface KeptTick {
  step: string;
  at: string;
  done: boolean;
}

/** One more, in place of an earlier one of the same step. */
export const withTick = (kept: readonly KeptTick[], tick: KeptTick): KeptTick[] => [
  ...kept.filter((t) => t.step !== tick.step),
  tick,
];

/** What is left once some have arrived: a step that was ticked anew meanwhile stays. */
export const withoutSent = (kept: readonly KeptTick[], sent: readonly KeptTick[]): KeptTick[] =>
  kept.filter((t) => !sent.some((s) => s.step === t.step && s.at === t.at && s.done === t.done));

/** What a browser has kept, whatever it holds. */
export function readTicks(text: string | null): KeptTick[] {
  try {
    const rows: unknown = JSON.parse(text ?? "[]");
    return Array.isArray(rows) ? rows.filter(isTick) : [];
  } catch {
    return [];
  }
}

const isTick = (row: unknown): row is KeptTick =>
  typeof row === "object" &&
  row !== null &&
  "step" in row &&
  "at" in row &&
  "done" in row &&
  typeof row.step === "string" &&
  typeof row.at === "string" &&
  typeof row.done === "boolean";
