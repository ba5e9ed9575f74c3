// @vitest-environment jsdom
import { render } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { Diagonal } from "./Diagonal";
import { Drift } from "./Drift";
import { Scatter } from "./Scatter";

const dot = { id: "a", group: "across", counts: true, held: false, name: "post" } as const;

beforeEach(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      disconnect() {}
    },
  );
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(600);
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(300);
});

describe("readings and their fit", () => {
  it("draws what counts full and what does not as a ring, and tells which was pressed", () => {
    const pressed = vi.fn();
    const points = [
      { x: 1, y: 20, row: 0, counts: true },
      { x: 2, y: 50, row: 1, counts: false },
    ];
    const { container } = render(
      <Scatter
        x="bar"
        y="MPa"
        points={points}
        line={[[1, 20] as const, [2, 20] as const]}
        label="bars"
        onPoint={pressed}
      />,
    );
    const [first, second] = [...container.querySelectorAll("circle")];
    expect(first?.getAttribute("fill")).not.toBe(second?.getAttribute("fill"));
    second?.dispatchEvent(new MouseEvent("click", { bubbles: true }));
    expect(pressed).toHaveBeenCalledWith(1);
    expect(container.querySelector("[data-testid=fitted-line]")).not.toBeNull();
  });

  it("draws nothing of nothing", () => {
    const { container } = render(<Scatter x="" y="" points={[]} line={[]} label="none" />);
    expect(container.querySelector("svg")).toBeNull();
  });
});

describe("measured over predicted", () => {
  it("puts what agrees on the diagonal and what is weaker below it", () => {
    const dots = [
      { ...dot, predicted: 2, measured: 2 },
      { ...dot, id: "b", predicted: 2, measured: 1 },
    ];
    const { container } = render(<Diagonal dots={dots} at={null} onDot={() => undefined} />);
    const [same, weak] = [...container.querySelectorAll("circle")];
    const y = (c: Element | undefined) => Number(c?.getAttribute("cy"));
    expect(y(weak)).toBeGreaterThan(y(same));
    expect(same?.getAttribute("cx")).toBe(weak?.getAttribute("cx"));
  });

  it("tells by its shape how it fails, and that it held", () => {
    const dots = [
      { ...dot, predicted: 1, measured: 1 },
      { ...dot, id: "b", predicted: 1, measured: 1, group: "along" as const },
      { ...dot, id: "c", predicted: 1, measured: 2, held: true, counts: false },
    ];
    const { container } = render(<Diagonal dots={dots} at="c" onDot={() => undefined} />);
    for (const shape of ["circle", "rect", "path"]) expect(container.querySelectorAll(`g > ${shape}`)).toHaveLength(1);
  });
});

describe("give over time", () => {
  it("names lines that end beside each other without one name on another", () => {
    const line = (id: string, give: number) => ({
      id,
      name: id,
      points: [[1, give] as const, [100, 1] as const],
      fit: [],
    });
    const { container } = render(
      <Drift lines={[line("reed", 0.8), line("stone", 0.5)]} at={null} onLine={() => undefined} />,
    );
    const places = [...container.querySelectorAll("[data-line] text")].map((t) => Number(t.getAttribute("y")));
    expect(Math.abs((places[0] ?? 0) - (places[1] ?? 0))).toBeGreaterThanOrEqual(12);
  });
});
