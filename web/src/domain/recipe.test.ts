import { describe, expect, it } from "vitest";

import { type Came, outcomeAt, samePlace, standing, type Step, stepAt, withoutStep, withStep } from "./recipe";

const LEDGE = stepAt("gusset", "ledge", [1, 2, 3]);
const BORE = stepAt("teardrop", "bore", [9, 0, 0], { angle: 45 });

const came = (more: Partial<Came<Step>>): Came<Step> => ({
  stale_because: [],
  taken: null,
  work: { state: "done", problem: null },
  steps: [LEDGE, BORE],
  applied: [],
  unfit: [],
  questions: [],
  ...more,
});

describe("a recipe", () => {
  it("has one step at a place, the last that was said", () => {
    const other = stepAt("chamfer", "ledge", [1.04, 2, 3]);
    expect(withStep([LEDGE, BORE], other)).toEqual([BORE, other]);
    expect(withoutStep([LEDGE, BORE], LEDGE)).toEqual([BORE]);
    expect(withStep([LEDGE], stepAt("gusset", "ledge", [1.06, 2, 3]))).toHaveLength(2);
  });

  it("knows a place by its kind too, and the plate by its kind alone", () => {
    expect(samePlace(LEDGE, { kind: "bore", centre_mm: [1, 2, 3] })).toBe(false);
    expect(samePlace({ kind: "plate", centre_mm: [0, 0, 0] }, { kind: "plate", centre_mm: [5, 5, 5] })).toBe(true);
  });

  it("lays more only to what still holds and is no revision yet", () => {
    expect(standing(came({}))).toEqual([LEDGE, BORE]);
    expect(standing(came({ stale_because: ["direction"] }))).toEqual([]);
    expect(standing(came({ taken: "a revision" }))).toEqual([]);
    expect(standing(null)).toEqual([]);
  });
});

describe("what came of a step", () => {
  it("is made, refused with its reason, asked about, or on its way", () => {
    const row = { ...LEDGE, words: "gusset", volume_added_mm3: 20, volume_removed_mm3: 0 };
    expect(outcomeAt(came({ applied: [row] }), LEDGE)).toEqual({ state: "made", row, step: LEDGE });
    const unfit = [{ kind: "ledge", why: "It would fill a slot.", centre_mm: [1, 2, 3] }];
    expect(outcomeAt(came({ unfit }), LEDGE)).toMatchObject({ state: "refused", why: "It would fill a slot." });
    const question = { ...LEDGE, space: "the fork", filled_mm3: 80 };
    expect(outcomeAt(came({ questions: [question] }), LEDGE)).toMatchObject({ state: "asks", question });
    expect(outcomeAt(came({ work: { state: "running", problem: null } }), LEDGE)).toMatchObject({ state: "busy" });
    const problem = { message: "The sum stopped." };
    expect(outcomeAt(came({ work: { state: "failed", problem } }), LEDGE)).toMatchObject({ why: "The sum stopped." });
  });

  it("says so where another step has cured the place already", () => {
    const row = { ...LEDGE, words: "gusset", volume_added_mm3: 20, volume_removed_mm3: 0 };
    expect(outcomeAt(came({ applied: [row] }), BORE)).toMatchObject({
      state: "refused",
      why: "What is done elsewhere has cured it already.",
    });
  });

  it("is nothing where no step is, where it was struck out, and where the ground has moved", () => {
    expect(outcomeAt(came({}), { kind: "ledge", centre_mm: [7, 7, 7] })).toBeNull();
    expect(outcomeAt(came({ steps: [{ ...LEDGE, on: false }] }), LEDGE)).toBeNull();
    expect(outcomeAt(came({ stale_because: ["solid"] }), LEDGE)).toBeNull();
  });
});
