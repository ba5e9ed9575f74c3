// @vitest-environment jsdom
/** The question about the unit of a file that names none. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { type Part, api } from "../../api/client";
import { UnitAsked } from "./UnitAsked";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const shown = (asked: Part["unit_asked"], may = true) =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <UnitAsked part={{ id: "p", sheet: "s", unit_asked: asked } as Part} mayEdit={may} />
    </QueryClientProvider>,
  );

it("says how long each unit would make the part, and which one was read", () => {
  shown({ scale_mm: 1000, longest: 0.082 });
  expect(screen.getAllByRole("button").map((b) => b.textContent)).toEqual([
    "0.08 mm · mm",
    "0.82 mm · cm",
    "82.0 mm · m, as it was read",
    "2.08 mm · in",
  ]);
});

it("takes a guess that is none of the units as it was read", () => {
  shown({ scale_mm: 0.001, longest: 40000 });
  expect(screen.getAllByRole("button")[0]?.textContent).toBe("40.0 mm · as it was read");
});

it("sends what is pressed, and asks nothing where the unit is known", () => {
  const sent = vi.spyOn(api, "sayUnit").mockResolvedValue({ work: null });
  shown({ scale_mm: 1000, longest: 0.082 });
  fireEvent.click(screen.getByText(/· in$/));
  expect(sent).toHaveBeenCalledExactlyOnceWith("p", "in");
  cleanup();
  shown(null);
  expect(screen.queryByTestId("unit-asked")).toBeNull();
  shown({ scale_mm: 1000, longest: 0.082 }, false);
  expect(screen.getAllByRole("button").every((b) => b.hasAttribute("disabled"))).toBe(true);
});
