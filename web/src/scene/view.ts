/** How the turntable is looked at: from where the eye is to where a point of the part lands on the screen, and back. */
import * as THREE from "three";

import { type Vec3, dot, unit } from "../domain/vectors";
import { type Shape, seenFrom, standing } from "./shape";

/** Where the eye stands, radians: round what it looks at, and above the level. */
export interface Sight {
  yaw: number;
  pitch: number;
}

export interface View extends Sight {
  zoom: number;
  /** The point of the room that lies in the middle of the picture. */
  at: Vec3;
}

export const START: View = { yaw: -0.62, pitch: 0.42, zoom: 1, at: [0, 0, 0] };

const UPRIGHT = 1.5; // radians: turned by hand, the eye stops short of standing above or below

/** The same, turned by hand. */
export const turned = <S extends Sight>(from: S, yaw: number, pitch: number): S => ({
  ...from,
  yaw: from.yaw + yaw,
  pitch: Math.max(-UPRIGHT, Math.min(UPRIGHT, from.pitch + pitch)),
});

/** A place of the part to look at: a point, which way its surface faces, and how large it is; all in the part's frame. */
export interface Place {
  point: Vec3;
  normal: Vec3;
  size: number;
}

const STEEP = 1.15; // radians: the eye never stands quite below or above, where the part could not be told apart

/** The view that shows a place from where it faces, large enough to see, and from a side where nothing hides it. */
export function facing(shape: Shape, up: Vec3, { point, normal, size }: Place): View {
  const stand = standing(shape, up);
  const back = new THREE.Matrix4().copy(stand).invert();
  const at = new THREE.Vector3(...point).applyMatrix4(stand);
  const n = new THREE.Vector3(...normal).transformDirection(stand);
  const flat = Math.hypot(n.x, n.y);
  const sloped = flat > 0.05;
  const best: View = {
    yaw: sloped ? Math.atan2(n.x, -n.y) : START.yaw,
    pitch: Math.max(-STEEP, Math.min(STEEP, sloped ? Math.atan2(n.z, flat) : Math.sign(n.z) * 0.75)),
    zoom: Math.max(1, Math.min(4, (0.5 * shape.radius) / Math.max(size, 1))),
    at: [at.x, at.y, at.z],
  };
  const turns = [0, 1, -1, 2, -2, 3, -3, 4, -4, 5, -5, 6].map((k) => (k * Math.PI) / 6);
  const views = [best.pitch, Math.sign(best.pitch || 1) * 0.35, Math.sign(best.pitch || 1) * STEEP].flatMap((pitch) =>
    turns.map((t) => ({ ...best, pitch, yaw: best.yaw + t })),
  );
  const clear = (v: View) => {
    const e = new THREE.Vector3(...eye(v)).transformDirection(back);
    return e.dot(new THREE.Vector3(...normal)) > 0.1 && seenFrom(shape, point, [e.x, e.y, e.z]);
  };
  return views.find(clear) ?? best;
}

/** From one view to another, `share` of the way; the turn goes the short way round. */
export function between(a: View, b: View, share: number): View {
  const ease = share * share * (3 - 2 * share);
  const mix = (x: number, y: number) => x + (y - x) * ease;
  const turn = ((((b.yaw - a.yaw) % (2 * Math.PI)) + 3 * Math.PI) % (2 * Math.PI)) - Math.PI;
  return {
    yaw: a.yaw + turn * ease,
    pitch: mix(a.pitch, b.pitch),
    zoom: mix(a.zoom, b.zoom),
    at: [mix(a.at[0], b.at[0]), mix(a.at[1], b.at[1]), mix(a.at[2], b.at[2])],
  };
}

/** Where the eye is, as a unit vector of the room (z up). */
export const eye = ({ yaw, pitch }: Pick<View, "yaw" | "pitch">): Vec3 => [
  Math.sin(yaw) * Math.cos(pitch),
  -Math.cos(yaw) * Math.cos(pitch),
  Math.sin(pitch),
];

/** The picture of the part: millimetres of the part to pixels of the page, origin in the middle. */
export interface Picture {
  pixelsPerMm: number;
  /** A point of the part, mm. */
  at: (point: Vec3) => { x: number; y: number };
  /** A direction of the part as seen: right, up, and towards the eye. */
  seen: (direction: Vec3) => Vec3;
  /** The direction of the part that is seen so. */
  direction: (seen: Vec3) => Vec3;
}

export function picture(shape: Shape, up: Vec3, view: View, pixelsPerMm: number): Picture {
  const stand = standing(shape, up);
  const turn = new THREE.Matrix3().setFromMatrix4(stand);
  const back = turn.clone().transpose();
  const [ex, ey, ez] = eye(view);
  const right: Vec3 = [Math.cos(view.yaw), Math.sin(view.yaw), 0];
  const above: Vec3 = [ey * right[2] - ez * right[1], ez * right[0] - ex * right[2], ex * right[1] - ey * right[0]];
  const axes: [Vec3, Vec3, Vec3] = [right, above, [ex, ey, ez]];
  const middle: Vec3 = [dot(view.at, right), dot(view.at, above), 0];
  const plain = (v: THREE.Vector3): Vec3 => [v.x, v.y, v.z];
  return {
    pixelsPerMm,
    at: (point) => {
      const p = plain(new THREE.Vector3(...point).applyMatrix4(stand));
      return { x: (dot(p, right) - middle[0]) * pixelsPerMm, y: -(dot(p, above) - middle[1]) * pixelsPerMm };
    },
    seen: (direction) => {
      const d = plain(new THREE.Vector3(...direction).applyMatrix3(turn));
      return [dot(d, right), dot(d, above), dot(d, axes[2])];
    },
    direction: ([x, y, z]) => {
      const d = axes.reduce<[number, number, number]>(
        (sum, a, i) => {
          const w = [x, y, z][i] ?? 0;
          return [sum[0] + w * a[0], sum[1] + w * a[1], sum[2] + w * a[2]];
        },
        [0, 0, 0],
      );
      return unit(plain(new THREE.Vector3(...d).applyMatrix3(back)));
    },
  };
}
