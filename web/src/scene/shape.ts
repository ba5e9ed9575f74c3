/** A solid as the server sends it, and the geometry drawn from it. */
import * as THREE from "three";
import { MeshBVH, acceleratedRaycast } from "three-mesh-bvh";

import { type Vec3, upright } from "../domain/vectors";

export interface Shape {
  /** One triangle after another, so that every facet has its own normal and mark. */
  geometry: THREE.BufferGeometry;
  /** Creases, drawn in ink. */
  edges: THREE.BufferGeometry;
  features: Int16Array;
  centre: Vec3;
  radius: number;
}

/** Reads `HWV1`: letters, counts, vertices float32, facets uint32, features int16; little endian, mm. */
export function decodeShape(data: ArrayBuffer): Shape {
  const mark = new TextDecoder().decode(data.slice(0, 4));
  if (mark !== "HWV1") throw new Error("The server sent a shape that this page cannot read.");
  const [n = 0, m = 0] = new Uint32Array(data, 4, 2);
  const vertices = new Float32Array(data, 12, 3 * n);
  const faces = new Uint32Array(data, 12 + 12 * n, 3 * m);
  const features = new Int16Array(data.slice(12 + 12 * n + 12 * m, 12 + 12 * n + 14 * m));
  const positions = new Float32Array(9 * m);
  const marks = new Float32Array(3 * m);
  for (let f = 0; f < m; f++) {
    for (let c = 0; c < 3; c++) {
      const v = faces[3 * f + c] ?? 0;
      for (let k = 0; k < 3; k++) positions[9 * f + 3 * c + k] = vertices[3 * v + k] ?? 0;
      marks[3 * f + c] = features[f] ?? 0;
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
  geometry.setAttribute("mark", new THREE.BufferAttribute(marks, 1));
  geometry.computeVertexNormals();
  geometry.computeBoundingBox();
  const box = geometry.boundingBox ?? new THREE.Box3();
  const centre = box.getCenter(new THREE.Vector3());
  return {
    geometry,
    edges: creases(vertices, faces, geometry.getAttribute("normal").array),
    features,
    centre: [centre.x, centre.y, centre.z],
    radius: box.getSize(new THREE.Vector3()).length() / 2,
  };
}

const CREASE = Math.cos((24 * Math.PI) / 180);

/** Edges where two facets meet at more than 24°, or where a facet has no neighbour. `normals` holds three a facet. */
function creases(vertices: Float32Array, faces: Uint32Array, normals: ArrayLike<number>): THREE.BufferGeometry {
  const first = new Map<number, number>();
  const n = vertices.length / 3;
  const lines: number[] = [];
  const draw = (a: number, b: number) => {
    for (const v of [a, b]) lines.push(vertices[3 * v] ?? 0, vertices[3 * v + 1] ?? 0, vertices[3 * v + 2] ?? 0);
  };
  for (let f = 0; f < faces.length / 3; f++) {
    for (let c = 0; c < 3; c++) {
      const a = faces[3 * f + c] ?? 0;
      const b = faces[3 * f + ((c + 1) % 3)] ?? 0;
      const key = a < b ? a * n + b : b * n + a;
      const other = first.get(key);
      if (other === undefined) {
        first.set(key, f);
        continue;
      }
      first.delete(key);
      let turn = 0;
      for (let k = 0; k < 3; k++) turn += (normals[9 * f + k] ?? 0) * (normals[9 * other + k] ?? 0);
      if (turn < CREASE) draw(a, b);
    }
  }
  for (const key of first.keys()) draw(Math.floor(key / n), key % n);
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(lines, 3));
}

/** Raycasting through a tree, grown when somebody first points: large parts are drawn at once, and pointed at quickly. */
export const raycast: typeof acceleratedRaycast = function (this: THREE.Mesh, ray, hits) {
  this.geometry.boundsTree ??= new MeshBVH(this.geometry, { indirect: true });
  acceleratedRaycast.call(this, ray, hits);
};

/** Stands the part with `up` vertical (three's z), its centre at the origin. */
export function standing(shape: Shape, up: Vec3): THREE.Matrix4 {
  const [x, y, z] = upright(up);
  const [cx, cy, cz] = shape.centre;
  return new THREE.Matrix4().set(...x, 0, ...y, 0, ...z, 0, 0, 0, 0, 1).multiply(new THREE.Matrix4().makeTranslation(-cx, -cy, -cz));
}

/** Least height of the part along `up`, relative to its centre: where the plate is. */
export function floorOf(shape: Shape, up: Vec3): number {
  const p = shape.geometry.getAttribute("position");
  const a = p.array;
  let low = Infinity;
  for (let i = 0; i < a.length; i += 3) {
    const h = (a[i] ?? 0) * up[0] + (a[i + 1] ?? 0) * up[1] + (a[i + 2] ?? 0) * up[2];
    if (h < low) low = h;
  }
  return low - (shape.centre[0] * up[0] + shape.centre[1] * up[1] + shape.centre[2] * up[2]);
}
