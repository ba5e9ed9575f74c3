/** Times of the week: seconds after its zero, as people say them. */
const DAY = 86_400;
const NAMES = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"] as const;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"] as const;

/** What a day and a clock show `seconds` after `zero`, in the farm's own time: that of the moment's text. */
export function wallClock(zero: string, seconds: number): { day: string; time: string } {
  const at = new Date(Date.parse(`${zero.slice(0, 19)}Z`) + 1000 * seconds);
  const two = (n: number) => String(n).padStart(2, "0");
  return {
    day: `${NAMES[at.getUTCDay()] ?? ""} ${at.getUTCDate()} ${MONTHS[at.getUTCMonth()] ?? ""}`,
    time: `${two(at.getUTCHours())}:${two(at.getUTCMinutes())}`,
  };
}

/** The same of a moment. */
export const wallClockOf = (zero: string, moment: string): { day: string; time: string } =>
  wallClock(zero, (Date.parse(moment) - Date.parse(zero)) / 1000);

export const dayAndTime = (zero: string, seconds: number): string => {
  const { day, time } = wallClock(zero, seconds);
  return `${day}, ${time}`;
};

/** Names a plate of an order; one that was broken off and still lies on its machine has a name beside the new one's. */
export const plateKey = (run: { order: string; number: number; print?: { state: string } | null }): string => {
  const off = run.print?.state === "failed" || run.print?.state === "cancelled";
  return `${run.order}/${run.number}${off ? "/off" : ""}`;
};

/** How long something is late, coarsely enough to be read at once. */
export const lateWords = (seconds: number): string =>
  seconds < 3600
    ? `${Math.max(1, Math.round(seconds / 60))} min`
    : seconds < 2 * DAY
      ? `${Math.round(seconds / 3600)} h`
      : `${(seconds / DAY).toFixed(1)} days`;

/** The moment of a time of the week, as the server takes it. */
export const momentOf = (zero: string, seconds: number): string =>
  new Date(Date.parse(zero) + 1000 * seconds).toISOString();
