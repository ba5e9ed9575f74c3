/** The faces of a part one by one, for those who go to them by key, and what is measured between two places. */
import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";

import { type Vec3, dot } from "../domain/vectors";
import { type Shape, normalOf } from "./shape";
import type { Place } from "./view";

export interface FaceSpot {
  face: number;
  /** Its largest facet, and the middle of that: a place that is surely on it. */
  facet: number;
  point: Vec3;
  normal: Vec3;
  area: number;
  /** 1 + the number of the bore it is part of; below 0 for a large flat, 0 for neither. */
  feature: number;
}

/** Every face, the largest first. */
export function facesOf(shape: Shape): FaceSpot[] {
  const p = shape.geometry.getAttribute("position").array;
  const [a, b, c] = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
  const found = new Map<number, FaceSpot & { largest: number }>();
  for (let f = 0; f < shape.face.length; f++) {
    [a, b, c].forEach((v, i) => v.fromArray(p, 9 * f + 3 * i));
    const middle: Vec3 = [(a.x + b.x + c.x) / 3, (a.y + b.y + c.y) / 3, (a.z + b.z + c.z) / 3];
    const area = b.sub(a).cross(c.sub(a)).length() / 2;
    const id = shape.face[f] ?? 0;
    const known = found.get(id);
    if (!known || area > known.largest) {
      const spot = { face: id, facet: f, point: middle, normal: normalOf(shape, f), feature: shape.features[f] ?? 0 };
      found.set(id, { ...spot, area: (known?.area ?? 0) + area, largest: area });
    } else known.area += area;
  }
  return [...found.values()].sort((x, y) => y.area - x.area || x.face - y.face);
}

/** The one after a face among those that fit, round and round; `by` −1 for the one before. */
export function nextFace(
  faces: readonly FaceSpot[],
  here: number | null,
  by: 1 | -1,
  fits: (spot: FaceSpot) => boolean = () => true,
): FaceSpot | null {
  const rows = faces.filter(fits);
  if (rows.length === 0) return null;
  const at = rows.findIndex((s) => s.face === here);
  return rows[(at < 0 ? (by > 0 ? 0 : rows.length - 1) : at + by + rows.length) % rows.length] ?? null;
}

/** Where a face is looked at from. */
export const placeOf = (spot: FaceSpot): Place => ({
  point: spot.point,
  normal: spot.normal,
  size: Math.sqrt(spot.area),
});

/** The keys that go from face to face. */
export const faceSteps = (go: (by: 1 | -1, fits?: (spot: FaceSpot) => boolean) => void) => [
  { name: "Next face", keys: "]", run: () => go(1) },
  { name: "Previous face", keys: "[", run: () => go(-1) },
  { name: "Next bore", keys: "o", run: () => go(1, (spot) => spot.feature > 0) },
];

export interface Measured {
  distance: number;
  along: Vec3;
  /** Degrees between the faces at the two places; 0 where they look the same way or away from each other. */
  angle: number;
  /** mm between two faces that lie level to each other; null where they do not. */
  between: number | null;
}

const LEVEL_DEG = 0.5;

/** What lies between two places of the surface, with which way it faces there. */
export function measured(a: { point: Vec3; normal: Vec3 }, b: { point: Vec3; normal: Vec3 }): Measured {
  const along: Vec3 = [b.point[0] - a.point[0], b.point[1] - a.point[1], b.point[2] - a.point[2]];
  const angle = (Math.acos(Math.min(1, Math.abs(dot(a.normal, b.normal)))) * 180) / Math.PI;
  return {
    distance: Math.hypot(...along),
    along,
    angle,
    between: angle < LEVEL_DEG ? Math.abs(dot(along, a.normal)) : null,
  };
}

/** mm of material below a place of the surface, straight in; null where there is no other side. */
export function thicknessAt(shape: Shape, point: Vec3, normal: Vec3): number | null {
  const tree = (shape.geometry.boundsTree ??= new MeshBVH(shape.geometry, { indirect: true })) as MeshBVH;
  const lift = 1e-4 * shape.radius;
  const inward = new THREE.Vector3(...normal).negate();
  const from = new THREE.Vector3(...point).addScaledVector(inward, lift);
  const hit = tree.raycastFirst(new THREE.Ray(from, inward), THREE.DoubleSide);
  return hit ? hit.distance + lift : null;
}
