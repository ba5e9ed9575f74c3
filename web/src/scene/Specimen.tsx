/** The part on a turntable: drag turns it, the wheel brings it nearer; no bed, no handles. */
import { Canvas, type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";

import { figure } from "../domain/figures";
import type { Vec3 } from "../domain/vectors";
import { INK, Paper } from "./paper";
import { type Shape, floorOf, raycast, standing } from "./shape";

export interface SpecimenProps {
  shape: Shape;
  up: Vec3;
  limit: number;
  layer: number;
  /** Feature to light: 1 + i for bore i, −1 − j for flat j, 0 for none. */
  hot?: number;
  onPoint?: (feature: number) => void;
  label: string;
}

interface View {
  yaw: number;
  pitch: number;
  zoom: number;
}

const START: View = { yaw: -0.62, pitch: 0.42, zoom: 1 };

export function Specimen(props: SpecimenProps) {
  const [view, setView] = useState<View>(START);
  const [scale, setScale] = useState(1);
  const drag = useRef<{ x: number; y: number } | null>(null);
  const turn = (yaw: number, pitch: number) =>
    setView((v) => ({ ...v, yaw: v.yaw + yaw, pitch: Math.max(-1.5, Math.min(1.5, v.pitch + pitch)) }));
  const near = (factor: number) => setView((v) => ({ ...v, zoom: Math.max(0.3, Math.min(12, v.zoom * factor)) }));
  const box = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const element = box.current;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      near(Math.exp(-e.deltaY * 0.0012));
    };
    element?.addEventListener("wheel", wheel, { passive: false });
    return () => element?.removeEventListener("wheel", wheel);
  }, []);

  return (
    <div
      ref={box}
      className="relative h-full w-full cursor-grab touch-none active:cursor-grabbing"
      role="group"
      aria-label={props.label}
      tabIndex={0}
      onPointerDown={(e) => {
        drag.current = { x: e.clientX, y: e.clientY };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (!drag.current) return;
        turn((e.clientX - drag.current.x) * 0.008, (e.clientY - drag.current.y) * 0.008);
        drag.current = { x: e.clientX, y: e.clientY };
      }}
      onPointerUp={() => (drag.current = null)}
      onDoubleClick={() => setView(START)}
      onKeyDown={(e) => {
        const step: Record<string, [number, number]> = {
          ArrowLeft: [-0.1, 0],
          ArrowRight: [0.1, 0],
          ArrowUp: [0, -0.1],
          ArrowDown: [0, 0.1],
        };
        const move = step[e.key];
        if (move) {
          e.preventDefault();
          turn(...move);
        } else if (e.key === "+") near(1.2);
        else if (e.key === "-") near(1 / 1.2);
      }}
    >
      <Canvas orthographic frameloop="demand" flat gl={{ antialias: false }} camera={{ near: -5000, far: 5000 }}>
        <Standing {...props} view={view} onScale={setScale} />
      </Canvas>
      <ScaleBar pixelsPerMm={scale} />
      <button
        type="button"
        className="absolute right-3 bottom-3 border border-bark bg-paper px-2 hover:bg-raised"
        onPointerDown={(e) => e.stopPropagation()}
        onDoubleClick={(e) => e.stopPropagation()}
        onClick={() => setView((v) => ({ ...v, pitch: v.pitch > 0 ? -0.42 : 0.42 }))}
      >
        {view.pitch > 0 ? "look from below" : "look from above"}
      </button>
    </div>
  );
}

function Standing({ shape, up, limit, layer, hot = 0, onPoint, view, onScale }: SpecimenProps & { view: View; onScale: (s: number) => void }) {
  const paper = useMemo(() => new Paper(), []);
  const { camera, size, invalidate } = useThree();
  const matrix = useMemo(() => standing(shape, up), [shape, up]);
  const pixels = (Math.min(size.width, size.height) / (2.15 * shape.radius)) * view.zoom;

  useEffect(() => onScale(pixels), [onScale, pixels]);
  useEffect(() => paper.stand(up, shape.centre, floorOf(shape, up), limit), [paper, shape, up, limit]);
  useEffect(() => {
    // Lines stand for layers, but never nearer to each other than the eye can part.
    paper.pitch = layer * Math.max(1, Math.ceil(4 / (layer * pixels)));
    paper.hot = hot;
    invalidate();
  }, [paper, layer, pixels, hot, up, limit, shape, invalidate]);
  useEffect(() => () => paper.dispose(), [paper]);

  useFrame(() => {
    const { yaw, pitch } = view;
    camera.position.set(Math.sin(yaw) * Math.cos(pitch), -Math.cos(yaw) * Math.cos(pitch), Math.sin(pitch)).multiplyScalar(1000);
    camera.up.set(0, 0, 1);
    camera.lookAt(0, 0, 0);
    camera.zoom = pixels;
    camera.updateProjectionMatrix();
  }, -1);
  useEffect(() => invalidate(), [view, invalidate]);

  const point = (e: ThreeEvent<PointerEvent>) => onPoint?.(shape.features[e.faceIndex ?? -1] ?? 0);
  return (
    <group matrixAutoUpdate={false} matrix={matrix}>
      <mesh
        geometry={shape.geometry}
        material={paper}
        raycast={raycast}
        onPointerMove={onPoint && point}
        onPointerOut={onPoint && (() => onPoint(0))}
      />
      <lineSegments geometry={shape.edges} material={INK} raycast={() => null} />
    </group>
  );
}

const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

function ScaleBar({ pixelsPerMm }: { pixelsPerMm: number }) {
  const length = [...STEPS].reverse().find((s) => s * pixelsPerMm <= 130) ?? 0.1;
  return (
    <div className="pointer-events-none absolute bottom-2 left-3 text-second">
      <svg width={length * pixelsPerMm + 2} height="8" aria-hidden="true">
        <path d={`M1 0 v8 M1 4 h${length * pixelsPerMm} m0 -4 v8`} stroke="currentColor" strokeWidth="1.2" fill="none" />
      </svg>
      <div className="figure text-[11px] leading-3">{figure(length, length < 1 ? 1 : 0)} mm</div>
    </div>
  );
}
