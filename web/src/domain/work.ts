/** Long work as the page sees it. */

/** Whether it waits or runs; none does neither. */
export const isOpen = (work: { state: string } | null | undefined): boolean =>
  work?.state === "waiting" || work?.state === "running";
