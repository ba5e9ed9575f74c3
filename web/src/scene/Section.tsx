/** The layer that a part is cut at: its true outline, filled. */
import { useEffect, useMemo } from "react";
import * as THREE from "three";

import { bodiesOf } from "../domain/layers";

const FILL = new THREE.MeshBasicMaterial({
  color: "#f0dcae",
  side: THREE.DoubleSide,
  polygonOffset: true,
  polygonOffsetFactor: 2,
  polygonOffsetUnits: 2,
});
const RIM = new THREE.LineBasicMaterial({ color: "#8f5f0b" });

export function Section({ loops, height }: { loops: readonly Float32Array[]; height: number }) {
  const [fill, rim] = useMemo(() => {
    const path = (loop: Float32Array) =>
      Array.from({ length: loop.length / 2 }, (_, i) => new THREE.Vector2(loop[2 * i], loop[2 * i + 1]));
    const shapes = bodiesOf(loops).map(([outer, ...holes]) => {
      const shape = new THREE.Shape(outer && path(outer));
      shape.holes = holes.map((h) => new THREE.Path(path(h)));
      return shape;
    });
    const lines: number[] = [];
    for (const loop of loops)
      for (let i = 0; i < loop.length; i += 2) {
        const j = (i + 2) % loop.length;
        lines.push(loop[i] ?? 0, loop[i + 1] ?? 0, 0, loop[j] ?? 0, loop[j + 1] ?? 0, 0);
      }
    return [
      new THREE.ShapeGeometry(shapes),
      new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(lines, 3)),
    ] as const;
  }, [loops]);
  useEffect(
    () => () => {
      fill.dispose();
      rim.dispose();
    },
    [fill, rim],
  );
  return (
    <group position={[0, 0, height]}>
      <mesh geometry={fill} material={FILL} raycast={() => null} />
      <lineSegments geometry={rim} material={RIM} raycast={() => null} />
    </group>
  );
}
