/** Long work as the page sees it. */

/** Whether it waits or runs; none does neither. */
export const isOpen = (work: { state: string } | null | undefined): boolean =>
  work?.state === "waiting" || work?.state === "running";

/** A moment at which so much of a calculation was done. */
export interface Mark {
  share: number;
  ms: number;
}

const ENOUGH_MS = 2_000;
const ENOUGH_SHARE = 0.05;

/** Seconds until a calculation is done if it goes on as it has since `from`; null while that says too little. */
export function secondsLeft(from: Mark, now: Mark): number | null {
  const [gone, done] = [now.ms - from.ms, now.share - from.share];
  return gone < ENOUGH_MS || done < ENOUGH_SHARE ? null : ((gone / done) * (1 - now.share)) / 1000;
}

/** How long yet, as people say it. */
export const leftWords = (seconds: number): string =>
  seconds < 8
    ? "a few seconds more"
    : seconds < 90
      ? `about ${10 * Math.max(1, Math.round(seconds / 10))} s more`
      : `about ${Math.round(seconds / 60)} min more`;
