// @vitest-environment jsdom
/** The pieces of the walls' page: what is calculated, what is offered, and what a press makes. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { ApiProblem, type Part, type SizeResult, type SizingPlace, type WallZone, api } from "../../api/client";
import { Places } from "./Places";
import { WallSize } from "./WallSize";
import { Zone } from "./Zone";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const PART = { id: "p", version: 1 } as Part;
const WALL = {
  kind: "gap",
  thickness_mm: 1.1,
  least_mm: 1.1,
  most_mm: 2.39,
  area_mm2: 366,
  lies: { along: [0, 1, 0], normal: [0, 0, 1], long_mm: 40, short_mm: 12 },
  better: [
    { mm: 0.86, grams: -0.11, seconds: -18, holds: [0.61, 0.78], advised: false },
    { mm: 1.26, grams: 0.08, seconds: 12, holds: [1.15, 1.32], advised: true },
  ],
} as unknown as WallZone;

describe("a wall", () => {
  it("says what each better size costs and brings, and is made so by a press", () => {
    const made = vi.fn();
    render(<Zone zone={WALL} here glows={false} onPick={vi.fn()} onSet={made} />);
    const rows = within(screen.getByTestId("better")).getAllByRole("row").slice(1);
    expect(rows.map((r) => [...r.children].slice(0, 5).map((c) => c.textContent))).toEqual([
      ["next down", "0.86", "−0.11", "−0.3", "0.61…0.78"],
      ["advised", "1.26", "+0.08", "+0.2", "1.15…1.32"],
    ]);
    fireEvent.click(screen.getByLabelText("Apply 1.26 mm"));
    expect(made).toHaveBeenCalledExactlyOnceWith(1.26);
  });

  it("says why nothing thinner is advised", () => {
    const held = { ...WALL, kind: "heavy", better: [], because: "weak", reserve: 0.82 } as unknown as WallZone;
    render(<Zone zone={held} here glows={false} onPick={vi.fn()} onSet={vi.fn()} />);
    expect(screen.getByTestId("held-back").textContent).toContain("reserve 0.82");
    expect(screen.queryByTestId("better")).toBeNull();
  });

  it("offers nothing to those who may not edit", () => {
    render(<Zone zone={WALL} here glows={false} onPick={vi.fn()} onSet={null} />);
    expect(screen.queryAllByText("Apply")).toEqual([]);
  });
});

const way = (size_mm: number, reserve: number) => ({
  size_mm,
  reserve,
  gives_mm: 0.2,
  grams: 3,
  seconds: 60,
  words: "",
});
const BENT = {
  allowed_mpa: 22.5,
  lean_deg: 0,
  mode: "in_layer",
  most_load_n: 3.03,
  most_ends: "strength",
  rib_pitch_mm: null,
  rib_mm: 0.86,
  ribs_apart_mm: 14.5,
  ways: { as_it_is: way(1.1, 0.15), lines: way(2.89, 1.05), ribs: way(2.8, 1.04), block: null },
};

describe("the size of a wall", () => {
  const asked = vi.fn();
  const answer = (result: () => Promise<unknown>) =>
    vi.spyOn(api, "calculateSize").mockImplementation((_, numbers) => {
      asked(numbers);
      return result() as Promise<SizeResult>;
    });
  const made = { wall: vi.fn(), ribs: vi.fn() };
  const form = (zone: WallZone) =>
    render(
      <QueryClientProvider client={new QueryClient()}>
        <WallSize part={PART} zone={zone} onWall={made.wall} onRibs={made.ribs} />
      </QueryClientProvider>,
    );
  const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
  beforeEach(() => [asked, made.wall, made.ribs].forEach((f) => f.mockClear()));

  it("asks once all that it needs is typed, with the wall's own sides and thickness", async () => {
    answer(() => Promise.resolve({ bent: BENT, boss: null }));
    form(WALL);
    expect(screen.getByText(/Type the load\./)).toBeTruthy();
    expect(asked).not.toHaveBeenCalled();
    type("load, N", "20");
    await screen.findByTestId("ways");
    expect(asked).toHaveBeenCalledExactlyOnceWith({
      kind: "arm",
      load_n: 20,
      factor: 2,
      span_mm: 40,
      width_mm: 12,
      thickness_mm: 1.1,
      sag_mm: null,
      along: [0, 1, 0],
      normal: [0, 0, 1],
      hole_mm: 4,
    });
    expect(screen.getByText(/breaks across the lines/).textContent).toContain("22.5 MPa");
    expect(screen.getByText("0.15").className).toContain("text-crown");
    expect(screen.getByText("none carries it")).toBeTruthy();
  });

  it("makes the wall in whole lines, or the ribs with their own height and distance", async () => {
    answer(() => Promise.resolve({ bent: BENT, boss: null }));
    form(WALL);
    type("load, N", "20");
    const ways = within(await screen.findByTestId("ways")).getAllByText("Apply");
    ways.forEach((so) => fireEvent.click(so));
    expect(made.wall).toHaveBeenCalledExactlyOnceWith(2.89);
    expect(made.ribs).toHaveBeenCalledExactlyOnceWith(0.86, 2.8, 14.5);
  });

  it("does not guess the sides of a wall that is round", () => {
    form({ ...WALL, lies: null } as unknown as WallZone);
    type("load, N", "20");
    expect(screen.getByText(/this wall is round/)).toBeTruthy();
    expect(asked).not.toHaveBeenCalled();
  });

  it("reads a comma as it is typed in half of the world, and waits while a number is wrong", async () => {
    answer(() => Promise.resolve({ bent: BENT, boss: null }));
    form(WALL);
    type("factor", "0,5"); // below 1: what may fail is no factor
    type("load, N", "2,5");
    expect(asked).not.toHaveBeenCalled();
    type("factor", "1,5");
    await screen.findByTestId("ways");
    expect(asked.mock.lastCall?.[0]).toMatchObject({ load_n: 2.5, factor: 1.5 });
  });

  it("says what the server refused", async () => {
    answer(() =>
      Promise.reject(new ApiProblem(422, "unknown", "Nobody knows what this material carries.", "Choose another.")),
    );
    form(WALL);
    type("load, N", "20");
    expect(await screen.findByText(/Nobody knows what this material carries/)).toBeTruthy();
  });
});

describe("places beside the walls", () => {
  const bore = {
    kind: "bore",
    centre_mm: [0, 0, 0],
    size_mm: 3,
    wall_mm: 0.8,
    wanted_mm: 1.8,
  } as unknown as SizingPlace;
  const lump = {
    kind: "body",
    centre_mm: [0, 0, 0],
    size_mm: 2,
    inside_mm3: 52000,
    grams: 14,
    gained_g: -11,
    perimeters: 5,
    infill: 0.05,
    filled_g: -6,
  } as unknown as SizingPlace;

  it("tell how it is and what cures it, where one is looked at", () => {
    const cured = vi.fn();
    const { rerender } = render(
      <Places outcome={() => null} places={[bore]} picked={null} onPick={vi.fn()} onCure={cured} onFill={null} />,
    );
    expect(screen.queryByText("put a collar round it")).toBeNull();
    rerender(<Places outcome={() => null} places={[bore]} picked={0} onPick={vi.fn()} onCure={cured} onFill={null} />);
    expect(screen.getByText(/a screw wants 1\.80 mm round it/)).toBeTruthy();
    fireEvent.click(screen.getByText("put a collar round it"));
    expect(cured).toHaveBeenCalledExactlyOnceWith(bore);
  });

  it("offer a lump as a shell or with infill that carries its roof", () => {
    const filled = vi.fn();
    render(
      <Places outcome={() => null} places={[lump]} picked={0} onPick={vi.fn()} onCure={vi.fn()} onFill={filled} />,
    );
    fireEvent.click(screen.getByText("5 perimeters, 5 % infill"));
    expect(filled).toHaveBeenCalledExactlyOnceWith(5, 0.05);
    expect(screen.getByText("hollow it")).toBeTruthy();
  });

  it("show the first few and then all of them", () => {
    render(
      <Places
        outcome={() => null}
        places={Array.from({ length: 9 }, () => bore)}
        picked={null}
        onPick={vi.fn()}
        onCure={null}
        onFill={null}
      />,
    );
    expect(screen.getAllByText("thin round a hole")).toHaveLength(6);
    fireEvent.click(screen.getByText("and 3 more"));
    expect(screen.getAllByText("thin round a hole")).toHaveLength(9);
  });
});
