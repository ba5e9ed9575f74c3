/** A small shape that stands as the pointer says, at once: only its rotation and two numbers change. */
import { Canvas, useThree } from "@react-three/fiber";
import { memo, useEffect, useMemo } from "react";
import * as THREE from "three";

import type { Vec3 } from "../domain/vectors";
import { INK, PLATE, Paper } from "./paper";
import { type Shape, floorOf, standing } from "./shape";
import { type Sight, eye } from "./view";

/** Where the eye stands that looks at a ghost. */
export const SIGHT: Sight = { yaw: -0.652, pitch: 0.414 };

interface Props {
  shape: Shape;
  up: Vec3;
  limit: number;
  label: string;
  sight?: Sight;
}

export function Ghost({ shape, up, limit, label, sight = SIGHT }: Props) {
  return (
    <div className="h-full w-full" role="img" aria-label={label}>
      <Canvas orthographic frameloop="demand" flat gl={{ antialias: false }} camera={{ near: -5000, far: 5000 }}>
        <Turned shape={shape} up={up} limit={limit} sight={sight} />
      </Canvas>
    </div>
  );
}

const Turned = memo(function Turned({ shape, up, limit, sight }: Omit<Props, "label"> & { sight: Sight }) {
  const paper = useMemo(() => new Paper(), []);
  const { camera, size, invalidate } = useThree();
  const floor = floorOf(shape, up);
  const matrix = useMemo(() => standing(shape, up), [shape, up]);
  useEffect(() => {
    paper.stand(up, shape.centre, floor, limit);
    camera.position.set(...eye(sight)).multiplyScalar(1000);
    camera.up.set(0, 0, 1);
    camera.lookAt(0, 0, 0);
    camera.zoom = Math.min(size.width, size.height) / (2.1 * shape.radius);
    camera.updateProjectionMatrix();
    invalidate();
  }, [paper, camera, size, shape, up, limit, floor, sight, invalidate]);
  const r = shape.radius * 0.8;
  const plate = useMemo(
    () =>
      new THREE.BufferGeometry().setFromPoints(
        [
          [-r, -r],
          [r, -r],
          [r, r],
          [-r, r],
        ].map(([x = 0, y = 0]) => new THREE.Vector3(x, y, 0)),
      ),
    [r],
  );
  return (
    <>
      <group matrixAutoUpdate={false} matrix={matrix}>
        <mesh geometry={shape.geometry} material={paper} />
        <lineSegments geometry={shape.edges} material={INK} />
      </group>
      <lineLoop geometry={plate} material={PLATE} position={[0, 0, floor]} />
    </>
  );
});
