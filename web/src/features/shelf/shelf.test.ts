/** The order of parts on the shelf. */
import { describe, expect, it } from "vitest";

import type { PartRow } from "../../api/client";
import { shelved } from "./Shelf";

const part = (id: string, name: string, created: string, more: Partial<PartRow> = {}): PartRow => ({
  id,
  sheet: id,
  name,
  revision: 1,
  revises: null,
  created,
  size_mm: [1, 1, 1],
  settled: true,
  note: "",
  ...more,
});
const ROWS = [
  part("a", "Sill", "2026-11-01"),
  part("b", "Clevis", "2026-11-02", { settled: false }),
  part("c", "Sill", "2026-11-05", { revision: 3, revises: "d" }),
  part("d", "Sill", "2026-11-03", { revision: 2, revises: "a", note: "thicker at the foot" }),
];
const ids = (search: string, order: Parameters<typeof shelved>[2]) =>
  shelved(ROWS, search, order)
    .map((p) => p.id)
    .join("");

describe("the shelf", () => {
  it("keeps revisions below the part they come from, the newest family first", () => {
    expect(ids("", "newest")).toBe("adcb");
  });
  it("sorts by name, and by what is open", () => {
    expect(ids("", "name")).toBe("badc");
    expect(ids("", "open first")).toBe("badc");
  });
  it("finds a family by any name or note of it", () => {
    expect(ids("FOOT", "newest")).toBe("adc");
    expect(ids(" clev ", "newest")).toBe("b");
    expect(ids("nothing of the kind", "newest")).toBe("");
  });
});
