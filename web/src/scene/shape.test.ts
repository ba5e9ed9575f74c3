import { Mesh, Raycaster, Vector3 } from "three";
import { expect, it } from "vitest";

import { decodeShape, floorOf, raycast } from "./shape";

/** A tetrahedron with a corner at (1, 2, 3), packed as the server packs it. */
function packed(): ArrayBuffer {
  const vertices = [1, 2, 3, 5, 2, 3, 1, 6, 3, 1, 2, 7];
  const faces = [0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2];
  const data = new ArrayBuffer(12 + 4 * vertices.length + 4 * faces.length + 2 * 4);
  new Uint8Array(data).set(new TextEncoder().encode("HWV1"));
  new Uint32Array(data, 4, 2).set([4, 4]);
  new Float32Array(data, 12, 12).set(vertices);
  new Uint32Array(data, 60, 12).set(faces);
  new Int16Array(data, 108, 4).set([0, -1, 2, 0]);
  return data;
}

it("reads what the server packs", () => {
  const shape = decodeShape(packed());
  expect(shape.centre).toEqual([3, 4, 5]);
  expect([...shape.features]).toEqual([0, -1, 2, 0]);
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
