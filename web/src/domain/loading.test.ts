import { describe, expect, it } from "vitest";

import { faceName, heldOn, loadedBy, named, wayOf, waysOn, sameFace } from "./loading";

const flat = { kind: "flat", called: "face", axis: [0, 0, 1], shape: { patch: 3 } };
const bore = { kind: "bore", called: "bore ⌀ 5", axis: [1, 0, 0], shape: { patch: 4 } };

describe("faces and loads as they are written", () => {
  it("names a face once, and finds it again by its shape", () => {
    const first = named([], flat);
    expect(first.rows).toEqual([{ id: first.id, name: "flat +z", colour: 0, shape: flat.shape }]);
    const again = named(first.rows, flat);
    expect(again).toEqual(first);
    const second = named(first.rows, { ...flat, shape: { patch: 9 } });
    expect(second.rows[1]).toMatchObject({ name: "flat +z, no. 2", colour: 1 });
    expect(faceName(bore, second.rows)).toBe("bore ⌀ 5");
  });

  it("knows a face again however its shape's keys are ordered", () => {
    const pointed = { ...flat, shape: { cylinder: { point: [0, 0, 88], axis: [1, 0, 0], radius: 4 } } };
    const kept = { shape: { cylinder: { axis: [1, 0, 0], point: [0, 0, 88], radius: 4 } } };
    expect(sameFace(kept, pointed)).toBe(true);
    expect(sameFace(kept, { shape: { cylinder: { ...kept.shape.cylinder, radius: 5 } } })).toBe(false);
    expect(sameFace(kept, { shape: { cylinder: { ...kept.shape.cylinder, point: [88, 0, 0] } } })).toBe(false);
  });

  it("holds a face fixed until somebody says otherwise", () => {
    const loads = heldOn({ held: [], cases: [], other: 1 }, "a");
    expect(loads).toMatchObject({ held: [{ on: "a", how: "fixed", axes: "xyz" }], other: 1 });
  });

  it("lays a load to the case that is named, else to a new one", () => {
    const load = { kind: "force", on: "a", amount: "120 N", direction: [0, 0, -1] as const, words: "" };
    const none: { id: string; name: string; loads: unknown[] }[] = [];
    const one = loadedBy({ cases: none }, load, null, "");
    expect(one.cases).toMatchObject([{ name: "case 1", loads: [{ amount: "120 N", direction: [0, 0, -1] }] }]);
    const two = loadedBy(one, load, one.cases[0]?.id ?? "", "");
    expect(two.cases).toHaveLength(1);
    expect(two.cases[0]?.loads).toHaveLength(2);
    expect(loadedBy(two, load, "gone", "gust").cases[1]).toMatchObject({ name: "gust" });
  });

  it("pushes into a flat, and along an axis what has no normal", () => {
    expect(wayOf("into the face", flat)).toEqual([-0, -0, -1]);
    expect(wayOf("out of the face", flat)).toEqual([0, 0, 1]);
    expect(wayOf("−y", bore)).toEqual([-0, -1, -0]);
    expect(waysOn(flat)).toContain("into the face");
    expect(waysOn(bore)).not.toContain("into the face");
  });
});
