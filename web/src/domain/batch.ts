/** A plate of copies as it is drawn: outlines turned and moved, what is printed when, how a mode is called. */

export type Mode = "together" | "sequential";

export const MODE_WORDS: Readonly<Record<Mode, string>> = { together: "all together", sequential: "one after another" };
export const MODES = ["together", "sequential"] as const;

/** Columns over the numbers of copies, lower edges of bands beside their values. */
export interface Curve {
  copies: readonly number[];
  reserve: readonly (number | null)[];
  low: readonly (number | null)[];
  per_day: readonly number[];
  cost: readonly number[];
  at_hand: readonly boolean[];
}

/** Where the part's own origin comes to lie (x, y, mm) and how far it is turned anticlockwise (degrees). */
export type Item = readonly [number, number, number];

export const toItem = (row: readonly number[]): Item => [row[0] ?? 0, row[1] ?? 0, row[2] ?? 0];

/** A point of the outline where the copy stands. */
export function placed([x, y, turn]: Item, [px, py]: readonly [number, number]): [number, number] {
  const [cos, sin] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  return [x + cos * px - sin * py, y + sin * px + cos * py];
}

/** The same copy turned by so many degrees about a point of its outline, which stays where it is. */
export function turnedAbout(item: Item, middle: readonly [number, number], by: number): Item {
  const [mx, my] = placed(item, middle);
  const turn = (((item[2] + by) % 360) + 360) % 360;
  const [nx, ny] = placed([0, 0, turn], middle);
  return [mx - nx, my - ny, turn];
}

/** An outline as the path of a drawing in its own frame, y upward. */
export const pathOf = (outline: readonly (readonly (readonly (readonly number[])[])[])[]): string =>
  outline.flatMap((polygon) => polygon.map((loop) => `M${loop.map((p) => `${p[0]} ${p[1]}`).join("L")}Z`)).join("");

export type Stage = "finished" | "printing" | "waiting";

/** How far a copy is when the plate is printed one after another and `now` of them are finished. */
export const stageOf = (number: number, now: number): Stage =>
  number < now ? "finished" : number === now ? "printing" : "waiting";

/** Numbers of copies that are shown next to the one asked for: the nearest at or below it, else the first. */
export function nearest(copies: readonly number[], asked: number): number {
  let best = 0;
  copies.forEach((n, i) => {
    if (n <= asked) best = i;
  });
  return best;
}

/** Where the lower edge of a band falls below 1: runs [from, to] of places, both included. */
export function failing(low: readonly (number | null)[]): [number, number][] {
  const runs: [number, number][] = [];
  low.forEach((v, i) => {
    if (v === null || v >= 1) return;
    const last = runs.at(-1);
    if (last && last[1] === i - 1) last[1] = i;
    else runs.push([i, i]);
  });
  return runs;
}

const DAY = 86_400;

/** Days until so many plates are printed, for those who plan by hand. */
export const daysFor = (quantity: number, perDay: number): number => (perDay > 0 ? quantity / perDay : Infinity);

/** d h:mm above a day, h:mm below. */
export function longTime(seconds: number): string {
  const days = Math.floor(seconds / DAY);
  const minutes = Math.round((seconds - days * DAY) / 60);
  const clock = `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")} h`;
  return days > 0 ? `${days} d ${clock}` : clock;
}

/** A round step that divides a reach into about so many parts. */
export function stepFor(reach: number, parts: number): number {
  const rough = reach / Math.max(parts, 1);
  const unit = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-9)));
  return ([1, 2, 5, 10].find((m) => m * unit >= rough) ?? 10) * unit;
}
