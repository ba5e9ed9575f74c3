/** How the turntable is looked at: from where the eye is to where a point of the part lands on the screen, and back. */
import * as THREE from "three";

import { type Vec3, dot, unit } from "../domain/vectors";
import { type Shape, standing } from "./shape";

export interface View {
  yaw: number;
  pitch: number;
  zoom: number;
}

export const START: View = { yaw: -0.62, pitch: 0.42, zoom: 1 };

/** Where the eye is, as a unit vector of the room (z up). */
export const eye = ({ yaw, pitch }: View): Vec3 => [Math.sin(yaw) * Math.cos(pitch), -Math.cos(yaw) * Math.cos(pitch), Math.sin(pitch)];

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
  const plain = (v: THREE.Vector3): Vec3 => [v.x, v.y, v.z];
  return {
    pixelsPerMm,
    at: (point) => {
      const p = plain(new THREE.Vector3(...point).applyMatrix4(stand));
      return { x: dot(p, right) * pixelsPerMm, y: -dot(p, above) * pixelsPerMm };
    },
    seen: (direction) => {
      const d = plain(new THREE.Vector3(...direction).applyMatrix3(turn));
      return [dot(d, right), dot(d, above), dot(d, axes[2])];
    },
    direction: ([x, y, z]) => {
      const d = axes.reduce<[number, number, number]>((sum, a, i) => {
        const w = [x, y, z][i] ?? 0;
        return [sum[0] + w * a[0], sum[1] + w * a[1], sum[2] + w * a[2]];
      }, [0, 0, 0]);
      return unit(plain(new THREE.Vector3(...d).applyMatrix3(back)));
    },
  };
}
