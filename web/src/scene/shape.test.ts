import { Mesh, Raycaster, Vector3 } from "three";
import { expect, it } from "vitest";

import type { Vec3 } from "../domain/vectors";
import { creaseNear, decodeShape, floorOf, normalAt, raycast, tint } from "./shape";
import { START, between, eye, facing, picture } from "./view";

/** A tetrahedron with a corner at (1, 2, 3), packed as the server packs it. */
function packed(): ArrayBuffer {
  const vertices = [1, 2, 3, 5, 2, 3, 1, 6, 3, 1, 2, 7];
  const faces = [0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2];
  const data = new ArrayBuffer(12 + 4 * vertices.length + 4 * faces.length + 8 * 4 + 2 * 4);
  new Uint8Array(data).set(new TextEncoder().encode("HWV2"));
  new Uint32Array(data, 4, 2).set([4, 4]);
  new Float32Array(data, 12, 12).set(vertices);
  new Uint32Array(data, 60, 12).set(faces);
  new Int32Array(data, 108, 4).set([0, 1, 2, 3]);
  new Int32Array(data, 124, 4).set([0, 0, 0, 1]);
  new Int16Array(data, 140, 4).set([0, -1, 2, 0]);
  return data;
}

it("knows which way the surface faces nearest to a point", () => {
  const shape = decodeShape(packed());
  expect(normalAt(shape, [2, 3, 3.1])).toEqual([0, 0, -1]);
  expect(normalAt(shape, [0.9, 4, 4])).toEqual([-1, 0, 0]);
});

it("reads what the server packs", () => {
  const shape = decodeShape(packed());
  expect(shape.centre).toEqual([3, 4, 5]);
  expect([...shape.features]).toEqual([0, -1, 2, 0]);
  expect([...shape.face]).toEqual([0, 1, 2, 3]);
  expect([...shape.wide]).toEqual([0, 0, 0, 1]);
  expect(shape.geometry.getAttribute("position").count).toBe(12);
  expect([...shape.geometry.getAttribute("mark").array].slice(3, 9)).toEqual([-1, -1, -1, 2, 2, 2]);
  expect(floorOf(shape, [0, 0, 1])).toBe(-2);
  expect(floorOf(shape, [-1, 0, 0])).toBe(-2);
});

it("keeps facets in their order under the tree that pointing uses", () => {
  const shape = decodeShape(packed());
  raycast.call(new Mesh(shape.geometry), new Raycaster(new Vector3(9, 9, 9), new Vector3(1, 0, 0)), []);
  expect(shape.geometry.boundsTree).toBeDefined();
  const p = shape.geometry.getAttribute("position");
  expect([p.getX(0), p.getY(0), p.getZ(0)]).toEqual([1, 2, 3]);
  expect([p.getX(8), p.getY(8), p.getZ(8)]).toEqual([1, 2, 7]);
});

it("refuses what it cannot read", () => {
  expect(() => decodeShape(new ArrayBuffer(40))).toThrow("cannot read");
});

it("draws the creases and the rims, not what is smooth", () => {
  // Every edge of a tetrahedron is a crease.
  expect(decodeShape(packed()).edges.getAttribute("position").count).toBe(2 * 6);
  // Two triangles of one square: four rims, and nothing across.
  const vertices = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0];
  const data = new ArrayBuffer(12 + 48 + 24 + 4);
  new Uint8Array(data).set(new TextEncoder().encode("HWV1"));
  new Uint32Array(data, 4, 2).set([4, 2]);
  new Float32Array(data, 12, 12).set(vertices);
  new Uint32Array(data, 60, 6).set([0, 1, 2, 0, 2, 3]);
  expect(decodeShape(data).edges.getAttribute("position").count).toBe(2 * 4);
});

it("colours the facets of a region", () => {
  const shape = decodeShape(packed());
  tint(shape, Uint8Array.from([0, 2, 0, 1]), [5, 7]);
  expect([...shape.geometry.getAttribute("tint").array]).toEqual([0, 0, 0, 8, 8, 8, 0, 0, 0, 6, 6, 6]);
});

it("finds the crease near a point, and none where there is none", () => {
  const shape = decodeShape(packed());
  const found = creaseNear(shape, [3, 2.05, 3], 0.2);
  expect(found?.map(Math.abs)).toEqual([1, 0, 0]);
  expect(creaseNear(shape, [2, 3, 4], 0.2)).toBeNull();
});

it("puts points where the camera shows them, and turns what is seen back", () => {
  const shape = decodeShape(packed());
  const drawn = picture(shape, [0, 0, 1], { yaw: 0, pitch: 0, zoom: 1, at: [0, 0, 0] }, 10);
  expect(drawn.at([3, 4, 5])).toEqual({ x: 0, y: expect.closeTo(0) as number });
  const moved = drawn.at([4, 9, 7]);
  expect([moved.x, moved.y]).toEqual([expect.closeTo(10), expect.closeTo(-20)]);
  const tilted = picture(shape, [0.6, 0, 0.8], { yaw: 0.7, pitch: -0.3, zoom: 1, at: [0, 0, 0] }, 10);
  const there: Vec3 = [0.48, -0.6, 0.64];
  tilted.direction(tilted.seen(there)).forEach((v, i) => {
    expect(v).toBeCloseTo(there[i] ?? 9);
  });
});

it("flies to a place by the short way round, and looks from where nothing hides it", () => {
  const shape = decodeShape(packed());
  const there = facing(shape, [0, 0, 1], { point: [2, 2, 4], normal: [0, -1, 0], size: 2 });
  expect(there.yaw).toBeCloseTo(0);
  expect(eye(there)[1]).toBeLessThan(-0.5);
  expect(there.at).toEqual([-1, -2, -1].map((v) => expect.closeTo(v) as number));
  const below = facing(shape, [0, 0, 1], { point: [2, 3, 3], normal: [0, 0, -1], size: 2 });
  expect(eye(below)[2]).toBeLessThan(-0.3);
  const half = between({ ...START, yaw: 3 }, { ...START, yaw: -3 }, 0.5);
  expect(Math.cos(half.yaw)).toBeCloseTo(-1);
  expect(between(START, there, 1)).toEqual({ ...there, yaw: expect.closeTo(there.yaw) as number });
});
