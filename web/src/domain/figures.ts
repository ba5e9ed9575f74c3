/** Numbers as an engineer writes them: sensible digits, thin spaces in thousands, a true minus. */

const THIN = "\u2009";

/** The number that somebody typed, with a point or a comma; NaN where there is none. */
export const typedNumber = (text: string): number => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));

export function figure(value: number | null | undefined, digits: number): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "–";
  const rounded = Number(value.toFixed(digits));
  const [whole = "", part] = Math.abs(rounded).toFixed(digits).split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, THIN) : whole;
  return (rounded < 0 ? "−" : "") + grouped + (part ? `.${part}` : "");
}

/** Three significant digits or whole units, whichever is more. */
export function measure(value: number | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const size = Math.abs(value);
  return figure(value, size >= 99.95 || size === 0 ? 0 : size >= 9.995 ? 1 : 2);
}

/** h:mm:ss, where a change of seconds counts. */
export function clock(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "–";
  const whole = Math.round(seconds);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${Math.floor(whole / 3600)}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}`;
}

export function hours(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "–";
  const minutes = Math.round(seconds / 60);
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}

export function moment(iso: string): string {
  const t = new Date(iso);
  const day = t.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  return `${day} ${t.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
}

export const size = (mm: readonly number[]): string => mm.map((v) => figure(v, 1)).join(" × ");
