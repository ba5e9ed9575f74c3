// @vitest-environment jsdom
/** Plots: as large as their boxes from the first painting on, and read by keys as by the pointer. */
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { type ReactElement, useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { GaugeStrip } from "./GaugeStrip";
import { LayerLog } from "./LayerLog";
import { LayerSheet } from "./LayerSheet";
import { LayerTrack } from "./LayerTrack";

const BOX = { width: 610, height: 175 };
let resized: ((size: { width: number; height: number }) => void)[];

beforeEach(() => {
  resized = [];
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(BOX.width);
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(BOX.height);
  vi.stubGlobal(
    "ResizeObserver",
    class {
      constructor(tell: (entries: unknown[]) => void) {
        resized.push((contentRect) => tell([{ contentRect }]));
      }
      observe() {}
      disconnect() {}
    },
  );
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const nothing = () => undefined;
const COMB = { widths_mm: [0.45, 0.86], gaps_mm: [[0.9, 1.24]], least_mm: 0.45, double_mm: 0.82, heavy_mm: 2.94 };
const EDGES = [0, 0.5, 1, 1.5, 2];
const AREAS = [0, 12, 300, 0];
const SQUARE = {
  width_mm: 0.45,
  inner_mm: 0.45,
  box_mm: [0, 0, 10, 10],
  outline: [],
  lines: [],
  core: [],
  slits: [],
  bare: [],
};
const PLOTS: readonly [string, ReactElement][] = [
  ["the gauge strip", <GaugeStrip edges={EDGES} areas={AREAS} comb={COMB} lit={null} onLight={nothing} />],
  ["the track of layers", <LayerTrack layer={0.2} slits={[0, 1, 2]} bare={[0, 0, 1]} at={0} onPick={nothing} />],
  ["a layer as drawn", <LayerSheet sheet={SQUARE} label="Layer 1" />],
  [
    "the layer log",
    <LayerLog
      label="Layers"
      reading="layer 1"
      layer={0.2}
      first={0.1}
      count={50}
      height={10}
      tracks={[]}
      events={[]}
      at={null}
      onAt={nothing}
    />,
  ],
];

describe.each(PLOTS)("%s", (_, plot) => {
  it("is never drawn larger than its box, and follows it", () => {
    const { container } = render(plot);
    const drawn = () => ["width", "height"].map((side) => Number(container.querySelector("svg")?.getAttribute(side)));
    expect(drawn()).toEqual([BOX.width, BOX.height]);
    resized.forEach((tell) => tell({ width: 480, height: 160 }));
    return vi.waitFor(() => expect(drawn()).toEqual([480, 160]));
  });
});

describe("the gauge strip", () => {
  function Strip() {
    const [lit, light] = useState<readonly [number, number] | null>(null);
    return <GaugeStrip edges={EDGES} areas={AREAS} comb={COMB} lit={lit} onLight={light} />;
  }
  const reading = () => screen.getByRole("slider").getAttribute("aria-valuetext");
  const key = (name: string) => fireEvent.keyDown(screen.getByRole("slider"), { key: name });

  it("draws what lies beyond its end as beyond", () => {
    const far = [...EDGES, 40];
    const { rerender, container } = render(
      <GaugeStrip edges={far} areas={[...AREAS, 77]} comb={COMB} lit={null} onLight={nothing} at={30} />,
    );
    expect(screen.getByTestId("beyond").textContent).toMatch(/mm and more: 77(\.0)? mm²/);
    expect(screen.getByTestId("at-beyond")).toBeTruthy();
    expect(container.querySelectorAll("rect[stroke='var(--color-bark)']")).toHaveLength(1);
    rerender(<GaugeStrip edges={EDGES} areas={AREAS} comb={COMB} lit={null} onLight={nothing} at={1} />);
    expect([screen.queryByTestId("beyond"), screen.queryByTestId("at-beyond")]).toEqual([null, null]);
  });

  it("goes by arrows from bar to bar that has walls, and is put out again", () => {
    render(<Strip />);
    expect(reading()).toBe("no thickness is lit");
    key("ArrowRight");
    expect(reading()).toMatch(/^0\.7\d mm and up, 12(\.0)? mm² of wall$/);
    key("ArrowRight");
    expect(reading()).toMatch(/^1\.2\d mm and up, 300 mm² of wall$/);
    key("ArrowRight"); // there is no wall thicker than that
    expect(reading()).toMatch(/^1\.2\d mm/);
    key("Escape");
    expect(reading()).toBe("no thickness is lit");
  });

  it("lights by a press what the keys light, and a second press puts it out", () => {
    const { container } = render(<Strip />);
    const bar = container.querySelector("[data-bar]");
    if (!bar) throw new Error("no bar is drawn");
    fireEvent.click(bar);
    expect(reading()).toMatch(/^0\.7\d mm and up/);
    fireEvent.click(bar);
    expect(reading()).toBe("no thickness is lit");
  });

  it("marks what lies between whole lines", () => {
    render(<Strip />);
    expect(screen.getAllByTestId("slit")).toHaveLength(COMB.gaps_mm.length);
  });
});

describe("the track of layers", () => {
  it("is walked by keys and stays within the part", () => {
    const picked = vi.fn();
    render(<LayerTrack layer={0.2} slits={[0, 1, 2, 0]} bare={[0, 0, 1, 0]} at={1} onPick={picked} />);
    const track = screen.getByRole("slider");
    expect(track.getAttribute("aria-valuetext")).toMatch(/^layer 2, 0\.40 mm up: 1(\.00)? mm² of slits, 0/);
    for (const key of ["ArrowRight", "PageUp", "PageDown", "Home", "End", "x"]) fireEvent.keyDown(track, { key });
    expect(picked.mock.calls.flat()).toEqual([2, 3, 0, 0, 3]);
  });

  it("says so when nothing is left in any layer", () => {
    render(<LayerTrack layer={0.2} slits={[0, 0]} bare={[0, 0]} at={0} onPick={nothing} />);
    expect(screen.getByText("lines and infill fill every layer")).toBeTruthy();
  });
});

describe("the layer log", () => {
  it("begins at the plate going up and at the top going down", () => {
    const at = vi.fn();
    render(
      <LayerLog
        label="Layers"
        reading=""
        layer={0.2}
        first={0.1}
        count={50}
        height={10}
        tracks={[]}
        events={[]}
        at={null}
        onAt={at}
      />,
    );
    const log = screen.getByRole("slider");
    for (const key of ["ArrowUp", "ArrowDown", "Home", "End"]) fireEvent.keyDown(log, { key });
    expect(at.mock.calls.flat()).toEqual([0, 49, 0, 49]);
  });
});
