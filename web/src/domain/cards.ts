/** Gauge cards: which of their inputs still want a value, and how their answers are said. */
interface Asked {
  key: string;
  default: number | null;
}

/** Inputs that have to be given and are not. */
export const wanting = <Input extends Asked>(inputs: readonly Input[], given: Record<string, string>): Input[] =>
  inputs.filter((i) => i.default === null && !(given[i.key] ?? "").trim());

/** A value of an answer: four figures, true and false in words, a dash where there is none. */
export function said(value: unknown): string {
  if (value === null || value === undefined) return "–";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number") {
    if (value === 0) return "0";
    const size = Math.abs(value);
    return size >= 1e6 || size < 1e-3 ? value.toExponential(3) : String(Number(value.toPrecision(4)));
  }
  return Array.isArray(value) ? value.map(said).join(", ") : String(value);
}
