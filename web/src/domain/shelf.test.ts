import { describe, expect, it } from "vitest";

import { EVERYTHING, type Listed, shelved, words, furthest } from "./shelf";

const NOW = Date.parse("2026-11-30T12:00:00Z");
const part = (id: string, more: Partial<Listed> = {}): Listed => ({
  id,
  name: id,
  note: "",
  labels: [],
  material: "PETG",
  by: "Ines",
  created: "2026-11-20T12:00:00Z",
  settled: false,
  revises: null,
  revision: 1,
  standing: {},
  ...more,
});
const seen = (parts: Listed[], more: Partial<typeof EVERYTHING>) =>
  shelved(parts, { ...EVERYTHING, ...more }, NOW).map((p) => p.id);

describe("parts in a list", () => {
  const fork = part("fork", { labels: ["gate"], standing: { strength: "fails", walls: "settled" } });
  const pod = part("pod", {
    material: "ASA",
    by: "Otto",
    created: "2026-11-30T08:00:00Z",
    standing: { walls: "open" },
  });
  const done = part("done", { standing: { strength: "settled" } });
  const all = [fork, pod, done];

  it("finds by word, label, material, person, state and day", () => {
    expect(seen(all, { search: " GAT " })).toEqual(["fork"]);
    expect(seen(all, { label: "gate" })).toEqual(["fork"]);
    expect(seen(all, { material: "ASA" })).toEqual(["pod"]);
    expect(seen(all, { by: "Otto" })).toEqual(["pod"]);
    expect(seen(all, { stage: "strength fails" })).toEqual(["fork"]);
    expect(seen(all, { stage: "walls" })).toEqual(["pod"]);
    expect(seen(all, { days: 1 })).toEqual(["pod"]);
    expect(seen(all, { waiting: true })).toEqual(["pod", "fork"]);
    expect(seen(all, { label: "gate", material: "ASA" })).toEqual([]);
  });

  it("keeps every revision below its part, whichever of them fits", () => {
    const two = part("fork 2", { revises: "fork", revision: 2, name: "Fork, mended" });
    const three = part("fork 3", { revises: "fork 2", revision: 3 });
    expect(seen([three, pod, two, fork], { search: "mended" })).toEqual(["fork", "fork 2", "fork 3"]);
    const lost = part("late", { revises: "in the bin", revision: 4 });
    expect(seen([lost], {})).toEqual(["late"]);
  });

  it("puts what waits first, and names in their order", () => {
    expect(seen(all, { order: "open first" })).toEqual(["pod", "fork", "done"]);
    expect(seen(all, { order: "name" })).toEqual(["done", "fork", "pod"]);
    expect(words(all, (p) => [p.material])).toEqual(["ASA", "PETG"]);
  });

  it("keeps a family together in every order, and finds it by any name or note of it", () => {
    const rows = [
      part("a", { name: "Sill", created: "2026-11-01" }),
      part("b", { name: "Clevis", created: "2026-11-02", standing: { direction: "open" } }),
      part("c", { name: "Sill", created: "2026-11-05", revision: 3, revises: "d" }),
      part("d", { name: "Sill", created: "2026-11-03", revision: 2, revises: "a", note: "thicker at the foot" }),
    ];
    const ids = (search: string, order: typeof EVERYTHING.order) => seen(rows, { search, order }).join("");
    expect(ids("", "newest")).toBe("adcb");
    expect(ids("", "name")).toBe("badc");
    expect(ids("", "open first")).toBe("badc");
    expect(ids("FOOT", "newest")).toBe("adc");
    expect(ids(" clev ", "newest")).toBe("b");
    expect(ids("nothing of the kind", "newest")).toBe("");
  });

  it("is done with two thousand at once", () => {
    const many = Array.from({ length: 2000 }, (_, i) => part(`p${i}`, i % 7 ? {} : { revises: `p${i - 1}` }));
    expect(seen(many, { search: "p1999" })).toContain("p1999");
  });
});

it("whoever is new is shown the job that has come furthest", () => {
  const of = (...states: string[]) => states.map((state) => ({ state }));
  const stages = new Map([
    ["a", of("settled", "empty", "empty")],
    ["b", of("fails", "stale", "empty")],
    ["c", of("open", "empty", "empty")],
  ]);
  expect(furthest(stages)).toBe("b");
  expect(furthest(new Map())).toBe(null);
  expect(furthest(undefined)).toBe(null);
});
