// @vitest-environment jsdom
/** How far a stage's calculation is, and what was refused. */
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { StageState } from "./StageHeader";

afterEach(cleanup);

const state = (more: Partial<Parameters<typeof StageState>[0]>) => (
  <StageState
    result={null}
    complete={false}
    verb="Measure walls"
    onCalculate={vi.fn()}
    onStop={null}
    trouble={null}
    {...more}
  />
);

it("says what the server refused, with what to do", () => {
  render(state({ trouble: Object.assign(new Error("No direction is known yet."), { hint: "Choose a direction." }) }));
  expect(screen.getByRole("alert").textContent).toBe("No direction is known yet.Choose a direction.");
});

it("offers the calculation, and once something has changed offers it again", () => {
  const { rerender } = render(state({}));
  expect(screen.getByRole("button").textContent).toBe("Measure walls");
  rerender(state({ complete: true, result: { work: null, stale_because: ["loads"] } }));
  expect(screen.getByRole("status").textContent).toBe("Changed since: loads.Measure walls again");
  rerender(state({ complete: true, result: { work: null, stale_because: [] } }));
  expect(screen.queryByRole("button")).toBeNull();
});

it("claims nothing and offers nothing until it is known what there is", () => {
  render(state({ result: undefined }));
  expect(screen.getByRole("status").textContent).toBe("Reading …");
  expect(screen.queryByRole("button")).toBeNull();
});
