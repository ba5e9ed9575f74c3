// @vitest-environment jsdom
/** Weights follow the hand while it moves, and are kept once it has left. */
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import type { Weights } from "../../api/client";
import { WeightStrip } from "./Weights";

afterEach(cleanup);

const KEPT: Weights = {
  support: 3,
  stability: 2,
  time: 1,
  height: 0,
  scar: 1,
  curl: 1,
  finish: 0,
  protected: 2,
  strength: 3,
};
const slider = () => screen.getByLabelText<HTMLInputElement>("Weight of height");

it("asks for weights, and for none of them", () => {
  const result = vi.fn();
  const { rerender } = render(<WeightStrip weights={null} onChange={result} mayEdit />);
  expect(screen.queryByRole("slider")).toBeNull();
  fireEvent.click(screen.getByLabelText("by weights"));
  expect(result).toHaveBeenLastCalledWith(KEPT, true);
  rerender(<WeightStrip weights={KEPT} onChange={result} mayEdit />);
  fireEvent.click(screen.getByLabelText("plain order"));
  expect(result).toHaveBeenLastCalledWith(null, true);
});

it("tells every move, and once more when the hand leaves", () => {
  const result = vi.fn<(weights: Weights | null, settled: boolean) => void>();
  render(<WeightStrip weights={KEPT} onChange={result} mayEdit />);
  for (const value of ["1", "2.5"]) fireEvent.change(slider(), { target: { value } });
  fireEvent.pointerUp(slider());
  fireEvent.blur(slider());
  expect(result.mock.calls.map(([w, settled]) => [w?.height, settled])).toEqual([
    [1, false],
    [2.5, false],
    [2.5, true],
  ]);
});

it("does not jump back under the hand when something older comes from the server", () => {
  const { rerender } = render(<WeightStrip weights={KEPT} onChange={vi.fn()} mayEdit />);
  fireEvent.change(slider(), { target: { value: "4" } });
  rerender(<WeightStrip weights={{ ...KEPT, height: 1 }} onChange={vi.fn()} mayEdit />);
  expect(slider().value).toBe("4");
  fireEvent.pointerUp(slider());
  rerender(<WeightStrip weights={{ ...KEPT, height: 4.5 }} onChange={vi.fn()} mayEdit />);
  expect(slider().value).toBe("4.5");
});

it("lets nobody move them who may not edit", () => {
  render(<WeightStrip weights={KEPT} onChange={vi.fn()} mayEdit={false} />);
  expect(screen.getAllByRole<HTMLInputElement>("slider").every((s) => s.disabled)).toBe(true);
  expect(screen.getAllByRole<HTMLInputElement>("radio").every((r) => r.disabled)).toBe(true);
});
