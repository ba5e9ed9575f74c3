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
  /** The face that each facet belongs to, and the wide one that takes in tangent faces smoothly. */
  face: Int32Array;
  wide: Int32Array;
  centre: Vec3;
  radius: number;
}

/** Triangles of a body, nine numbers each, out of base64 of float32, little endian. */
export function decodeCorners(sent: string): Float32Array {
  const bytes = Uint8Array.from(atob(sent), (c) => c.charCodeAt(0));
  return new Float32Array(bytes.buffer);
}

/**
 * Reads `HWV2`: letters, counts, vertices float32, facets uint32, face and wide face int32, features int16; little
 * endian, mm. `HWV1`, from before faces were kept, has none of them: there every facet is a face of its own.
 */
export function decodeShape(data: ArrayBuffer, moved?: (feature: number) => Vec3): Shape {
  const mark = new TextDecoder().decode(data.slice(0, 4));
  if (mark !== "HWV2" && mark !== "HWV1") throw new Error("The server sent a shape that this page cannot read.");
  const [n = 0, m = 0] = new Uint32Array(data, 4, 2);
  const vertices = moved ? new Float32Array(data.slice(12, 12 + 12 * n)) : new Float32Array(data, 12, 3 * n);
  const faces = new Uint32Array(data, 12 + 12 * n, 3 * m);
  const start = 12 + 12 * n + 12 * m;
  const result = mark === "HWV2";
  const face = result ? new Int32Array(data, start, m) : Int32Array.from({ length: m }, (_, i) => i);
  const wide = result ? new Int32Array(data, start + 4 * m, m) : face;
  const rest = result ? start + 8 * m : start;
  const features = new Int16Array(data.slice(rest, rest + 2 * m));
  if (moved) move(vertices, faces, features, moved);
  const positions = new Float32Array(9 * m);
  const marks = new Float32Array(3 * m);
  const faceMarks = new Float32Array(3 * m);
  const wideMarks = new Float32Array(3 * m);
  for (let f = 0; f < m; f++) {
    for (let c = 0; c < 3; c++) {
      const v = faces[3 * f + c] ?? 0;
      for (let k = 0; k < 3; k++) positions[9 * f + 3 * c + k] = vertices[3 * v + k] ?? 0;
      marks[3 * f + c] = features[f] ?? 0;
      faceMarks[3 * f + c] = face[f] ?? 0;
      wideMarks[3 * f + c] = wide[f] ?? 0;
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
  geometry.setAttribute("mark", new THREE.BufferAttribute(marks, 1));
  geometry.setAttribute("face", new THREE.BufferAttribute(faceMarks, 1));
  geometry.setAttribute("wide", new THREE.BufferAttribute(wideMarks, 1));
  geometry.setAttribute("tint", new THREE.BufferAttribute(new Float32Array(3 * m), 1));
  geometry.computeVertexNormals();
  geometry.computeBoundingBox();
  const box = geometry.boundingBox ?? new THREE.Box3();
  const centre = box.getCenter(new THREE.Vector3());
  return {
    geometry,
    edges: creases(vertices, faces, geometry.getAttribute("normal").array),
    features,
    face,
    wide,
    centre: [centre.x, centre.y, centre.z],
    radius: box.getSize(new THREE.Vector3()).length() / 2,
  };
}

/** Moves the vertices of every feature; features share none. */
function move(vertices: Float32Array, faces: Uint32Array, features: Int16Array, by: (feature: number) => Vec3) {
  const done = new Uint8Array(vertices.length / 3);
  for (let f = 0; f < features.length; f++) {
    const off = by(features[f] ?? 0);
    for (let c = 0; c < 3; c++) {
      const v = faces[3 * f + c] ?? 0;
      if (done[v]) continue;
      done[v] = 1;
      for (let k = 0; k < 3; k++) vertices[3 * v + k] = (vertices[3 * v + k] ?? 0) + (off[k] ?? 0);
    }
  }
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

/** A region of the surface: which way it faces, its facets counted by their area, and its facet nearest to `near`. */
export function facingOf(
  shape: Shape,
  regions: ArrayLike<number>,
  region: number,
  near: Vec3,
): { normal: Vec3; point: Vec3 } | null {
  const p = shape.geometry.getAttribute("position").array;
  const sum = new THREE.Vector3();
  const [a, b, c] = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
  const aim = new THREE.Vector3(...near);
  let best = Infinity;
  let point: Vec3 = near;
  for (let f = 0; f < regions.length; f++) {
    if (regions[f] !== region) continue;
    [a, b, c].forEach((v, i) => v.fromArray(p, 9 * f + 3 * i));
    const middle = new THREE.Vector3().add(a).add(b).add(c).divideScalar(3);
    const far = middle.distanceToSquared(aim);
    if (far < best) [best, point] = [far, [middle.x, middle.y, middle.z]];
    sum.add(b.sub(a).cross(c.sub(a)));
  }
  return sum.length() > 0 ? { normal: [...sum.normalize().toArray()] as Vec3, point } : null;
}

/** Which way the surface faces where it is nearest to a point, both in the part's frame. */
export function normalAt(shape: Shape, point: Vec3): Vec3 {
  const tree = (shape.geometry.boundsTree ??= new MeshBVH(shape.geometry, { indirect: true })) as MeshBVH;
  const facet = tree.closestPointToPoint(new THREE.Vector3(...point))?.faceIndex ?? 0;
  return normalOf(shape, facet);
}

/** The corners of a part's triangles, placed by three rows of four numbers. */
export function placedCorners(shape: Shape, matrix: readonly number[]): Float32Array {
  const place = new THREE.Matrix4().fromArray([...matrix, 0, 0, 0, 1]).transpose(); // which are read column by column
  const corners = shape.geometry.getAttribute("position").clone().applyMatrix4(place);
  return new Float32Array(corners.array);
}

/** Which way a facet faces, in the part's frame. */
export function normalOf(shape: Shape, facet: number): Vec3 {
  const n = shape.geometry.getAttribute("normal").array;
  return [n[9 * facet] ?? 0, n[9 * facet + 1] ?? 0, n[9 * facet + 2] ?? 1];
}

/** Whether nothing of the part stands between a point of its surface and an eye far away; all in the part's frame. */
export function seenFrom(shape: Shape, point: Vec3, towards: Vec3): boolean {
  const tree = (shape.geometry.boundsTree ??= new MeshBVH(shape.geometry, { indirect: true })) as MeshBVH;
  const ray = new THREE.Ray(new THREE.Vector3(...point), new THREE.Vector3(...towards)).recast(1e-3 * shape.radius);
  return tree.raycastFirst(ray, THREE.DoubleSide) === null;
}

/** Colours facets by region: `regions` names the region of each facet, `colours` the colour (0 to 7) of each region. */
export function tint(shape: Shape, regions: ArrayLike<number>, colours: readonly number[]): void {
  const attribute = shape.geometry.getAttribute("tint") as THREE.BufferAttribute;
  const out = attribute.array as Float32Array;
  for (let f = 0; 3 * f < out.length; f++) {
    const region = regions[f] ?? 0;
    out.fill(region === 0 ? 0 : 1 + (colours[region - 1] ?? 0), 3 * f, 3 * f + 3);
  }
  attribute.needsUpdate = true;
}

/** The crease nearest to a point of the part, as a unit direction; null where none is within `reach` mm. */
export function creaseNear(shape: Shape, point: Vec3, reach: number): Vec3 | null {
  const a = shape.edges.getAttribute("position").array;
  let best = reach * reach;
  let found: Vec3 | null = null;
  for (let i = 0; i + 5 < a.length; i += 6) {
    const p: Vec3 = [a[i] ?? 0, a[i + 1] ?? 0, a[i + 2] ?? 0];
    const d: Vec3 = [(a[i + 3] ?? 0) - p[0], (a[i + 4] ?? 0) - p[1], (a[i + 5] ?? 0) - p[2]];
    const r: Vec3 = [point[0] - p[0], point[1] - p[1], point[2] - p[2]];
    const length = d[0] * d[0] + d[1] * d[1] + d[2] * d[2];
    if (length === 0) continue;
    const t = Math.min(1, Math.max(0, (r[0] * d[0] + r[1] * d[1] + r[2] * d[2]) / length));
    const far = (r[0] - t * d[0]) ** 2 + (r[1] - t * d[1]) ** 2 + (r[2] - t * d[2]) ** 2;
    if (far < best) {
      best = far;
      const l = Math.sqrt(length);
      found = [d[0] / l, d[1] / l, d[2] / l];
    }
  }
  return found;
}

/** Stands the part with `up` vertical (three's z), its centre at the origin. */
export function standing(shape: Shape, up: Vec3): THREE.Matrix4 {
  const [x, y, z] = upright(up);
  const [cx, cy, cz] = shape.centre;
  return new THREE.Matrix4()
    .set(...x, 0, ...y, 0, ...z, 0, 0, 0, 0, 1)
    .multiply(new THREE.Matrix4().makeTranslation(-cx, -cy, -cz));
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
