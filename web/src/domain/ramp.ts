/** The field ramp: perceptually even, readable by colour-blind eyes and in grey. */
export const RAMP = ["#f4f0df", "#d9dcb8", "#a9bf95", "#6f9c85", "#3f7478", "#264e63", "#1d2f49"] as const;

export const band = (t: number): string =>
  RAMP[Math.max(0, Math.min(RAMP.length - 1, Math.floor(t * RAMP.length)))] ?? RAMP[0];
