/** The part on a turntable: drag turns it, the wheel brings it nearer; no bed, no handles. */
import { Canvas, type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { type ReactNode, type RefObject, memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  Data3DTexture,
  DoubleSide,
  FrontSide,
  type Intersection,
  LinearFilter,
  Matrix4,
  type Mesh,
  Plane,
  Raycaster,
  RedFormat,
  UnsignedByteType,
  Vector2,
  Vector3,
} from "three";

import { figure } from "../domain/figures";
import type { Field } from "../domain/strength";
import type { Vec3 } from "../domain/vectors";
import { Section } from "./Section";
import { INK, Paper, REGION_COLOURS } from "./paper";
import { type Shape, floorOf, raycast, standing, tint } from "./shape";
import { type Picture, type Place, START, type View, between, eye, facing, picture, turned } from "./view";

/** A facet pointed at, and where on the part, mm. */
export interface Pointed {
  facet: number;
  point: Vec3;
  /** What lies behind it along the same line of sight, the nearest first. */
  behind?: readonly { facet: number; point: Vec3 }[];
  /** Pressed with Shift: beside what is taken already. */
  more?: boolean;
}

/** A plane that the part is cut at: what lies further than `at` mm along `normal`, both in the part's frame, is not drawn. */
export interface SectionPlane {
  normal: Vec3;
  at: number;
}

export interface SpecimenProps {
  shape: Shape;
  up: Vec3;
  /** Degrees from the vertical past which a face is drawn as needing; null where that is not what is looked at. */
  limit: number | null;
  layer: number;
  /** Feature to light: 1 + i for bore i, −1 − j for flat j, 0 for none. */
  hot?: number;
  onPoint?: (feature: number) => void;
  /** Faces can be pointed at: `wide` takes in tangent faces smoothly, `onDesk` is the face that was taken. */
  faces?: { wide: boolean; onDesk: number };
  /** Called when a facet is pressed without turning the part. */
  onPick?: (pointed: Pointed, pixelsPerMm: number) => void;
  /** The region of each facet (0 for none) and the colour of each region. */
  tints?: { regions: ArrayLike<number>; colours: readonly number[]; dyes?: readonly string[] };
  /** The layer that the part is cut at: its height above the plate, and its outlines in the standing part's plan. */
  cut?: { height: number; loops: readonly Float32Array[] } | null;
  /** A free section through the part. */
  section?: SectionPlane | null;
  /** A field drawn over the part; its values over `kept` are shares of what is allowed. */
  field?: { field: Field; kept: number } | null;
  /** The layer that is named, mm above the plate. */
  named?: number | null;
  /** Bodies drawn through the part, in its own frame: triangles, nine numbers each. */
  ghosts?: readonly { corners: Float32Array; colour: string; both?: boolean }[];
  /** A place to fly to; another object flies anew. */
  fly?: Place | null;
  /** Drawn over the part. */
  over?: (picture: Picture, width: number, height: number) => ReactNode;
  label: string;
}

const FLIGHT = 420; // ms

/** Turns and moves the view to a place, unless the person asked for less motion. */
function useFlight(place: Place | null, shape: Shape, up: Vec3, setView: (change: (v: View) => View) => void) {
  useEffect(() => {
    if (!place) return;
    const there = facing(shape, up, place);
    const still = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    let frame = 0;
    let from: View | null = null;
    const begin = performance.now();
    const step = (now: number) => {
      const share = still ? 1 : Math.min(1, (now - begin) / FLIGHT);
      setView((v) => {
        from ??= v;
        return between(from, there, share);
      });
      if (share < 1) frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [place, shape, up, setView]);
}

const STILL = 4; // px: a press that moves less is no turn

export function Specimen(props: SpecimenProps) {
  const { shape, up, over } = props;
  const [view, setView] = useState<View>(START);
  const [seen, setSeen] = useState({ pixels: 1, width: 0, height: 0 });
  const drag = useRef<{ x: number; y: number; far: number; at: Pointed | null } | null>(null);
  const hit = useRef<HitAt | null>(null);
  const { onPoint } = props;
  const tell = useRef(onPoint);
  useEffect(() => {
    tell.current = onPoint;
  }, [onPoint]);
  const onUnder = useCallback((feature: number) => tell.current?.(feature), []);
  const turn = (yaw: number, pitch: number) => setView((v) => turned(v, yaw, pitch));
  const near = (factor: number) => setView((v) => ({ ...v, zoom: Math.max(0.3, Math.min(12, v.zoom * factor)) }));
  useFlight(props.fly ?? null, shape, up, setView);
  const box = useRef<HTMLDivElement>(null);
  const drawn = useMemo(() => picture(shape, up, view, seen.pixels), [shape, up, view, seen.pixels]);

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
      className={`relative h-full w-full touch-none max-sm:h-[340px] overflow-hidden active:cursor-grabbing ${props.onPick ? "cursor-crosshair" : "cursor-grab"}`}
      role="group"
      data-specimen
      aria-label={props.label}
      tabIndex={0}
      onPointerDown={(e) => {
        // A finger has not hovered before, and a mouse may be quicker than the drawing: what is pressed is looked for now.
        const at = props.onPick ? (hit.current?.(e.clientX, e.clientY) ?? null) : null;
        drag.current = { x: e.clientX, y: e.clientY, far: 0, at };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (!drag.current) return;
        const [dx, dy] = [e.clientX - drag.current.x, e.clientY - drag.current.y];
        const far = drag.current.far + Math.hypot(dx, dy);
        if (far >= STILL) turn(dx * 0.008, dy * 0.008);
        drag.current = { ...drag.current, x: e.clientX, y: e.clientY, far };
      }}
      onPointerUp={(e) => {
        if (drag.current?.at && drag.current.far < STILL)
          props.onPick?.({ ...drag.current.at, more: e.shiftKey }, seen.pixels);
        drag.current = null;
      }}
      onDoubleClick={() => !props.onPick && setView(START)}
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
        <Standing
          shape={shape}
          up={up}
          limit={props.limit}
          layer={props.layer}
          hot={props.hot}
          tints={props.tints}
          cut={props.cut}
          section={props.section}
          field={props.field}
          named={props.named}
          ghosts={props.ghosts}
          lights={props.faces !== undefined}
          wide={props.faces?.wide}
          onDesk={props.faces?.onDesk}
          answers={!!props.onPoint || !!props.onPick}
          view={view}
          onSeen={setSeen}
          onUnder={onUnder}
          hit={hit}
        />
      </Canvas>
      {over && seen.width > 0 && over(drawn, seen.width, seen.height)}
      <div
        className={`pointer-events-none absolute left-3 text-second ${seen.width < NARROW ? "bottom-11" : "bottom-2"}`}
      >
        <Axes picture={drawn} />
        <ScaleBar pixelsPerMm={seen.pixels} />
      </div>
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

function textured(field: Field): Data3DTexture {
  const texture = new Data3DTexture(field.cells, ...field.counts);
  texture.format = RedFormat;
  texture.type = UnsignedByteType;
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.unpackAlignment = 1;
  texture.needsUpdate = true;
  return texture;
}

/** What of the part is at a place of the window, px. */
type HitAt = (x: number, y: number) => Pointed | null;

interface StandingProps extends Pick<
  SpecimenProps,
  "shape" | "up" | "limit" | "layer" | "hot" | "tints" | "cut" | "section" | "field" | "named" | "ghosts"
> {
  view: View;
  /** Faces are lit as they are pointed at. */
  lights: boolean;
  wide: boolean | undefined;
  onDesk: number | undefined;
  /** The part answers the pointer. */
  answers: boolean;
  onSeen: (seen: { pixels: number; width: number; height: number }) => void;
  /** The feature under the pointer; 0 when it leaves the part. */
  onUnder: (feature: number) => void;
  /** Where it is left what looks for a place. */
  hit: RefObject<HitAt | null>;
}

/** The part as it stands. Drawn anew only when something of it changes: the page around it may say new things many times a second. */
const Standing = memo(function Standing({
  shape,
  up,
  limit,
  layer,
  hot = 0,
  lights,
  wide = false,
  onDesk = -1,
  answers,
  tints,
  cut = null,
  section = null,
  field = null,
  named = null,
  ghosts,
  view,
  onSeen,
  onUnder,
  hit,
}: StandingProps) {
  const paper = useMemo(() => new Paper(), []);
  const ink = useMemo(() => INK.clone(), []);
  const { camera, size, invalidate, gl } = useThree();
  const floor = useMemo(() => floorOf(shape, up), [shape, up]);
  const matrix = useMemo(() => standing(shape, up), [shape, up]);
  const back = useMemo(() => new Matrix4().copy(matrix).invert(), [matrix]);
  const [hotFace, setHotFace] = useState(-1);
  const pixels = (Math.min(size.width, size.height) / (2.15 * shape.radius)) * view.zoom;

  useEffect(
    () => onSeen({ pixels, width: size.width, height: size.height }),
    [onSeen, pixels, size.width, size.height],
  );
  useEffect(() => paper.stand(up, shape.centre, floor, limit), [paper, shape, up, floor, limit]);
  useEffect(() => {
    // Ink goes the way of the paper; the plane stands a little higher, so that the cut itself keeps its rim.
    gl.localClippingEnabled = true;
    paper.cut = cut?.height ?? null;
    const level = cut ? [new Plane(new Vector3(0, 0, -1), floor + cut.height + 1e-3)] : [];
    const free = section
      ? [new Plane(new Vector3(...section.normal).negate(), section.at + 1e-3).applyMatrix4(matrix)]
      : [];
    ink.clippingPlanes = [...level, ...free];
    paper.section(section);
    invalidate();
  }, [paper, ink, gl, cut, section, matrix, floor, invalidate]);
  useEffect(() => {
    // Lines stand for layers, but never nearer to each other than the eye can part.
    paper.pitch = layer * Math.max(1, Math.ceil(5.5 / (layer * pixels)));
    paper.hot = hot;
    paper.light(lights ? hotFace : -1, onDesk, wide);
    invalidate();
  }, [paper, layer, pixels, hot, hotFace, lights, onDesk, wide, up, limit, shape, invalidate]);
  useEffect(() => {
    if (tints) tint(shape, tints.regions, tints.colours);
    paper.dyes = tints?.dyes ?? REGION_COLOURS;
    invalidate();
  }, [paper, shape, tints, invalidate]);
  const texture = useMemo(() => (field ? textured(field.field) : null), [field]);
  useEffect(() => {
    paper.field(texture, field?.field ?? null, field?.kept ?? 1);
    invalidate();
    return () => texture?.dispose();
  }, [paper, texture, field, invalidate]);
  useEffect(() => {
    paper.mark(named, Math.max(layer / 2, 1.1 / pixels));
    invalidate();
  }, [paper, named, layer, pixels, invalidate]);
  useEffect(
    () => () => {
      paper.dispose();
      ink.dispose();
    },
    [paper, ink],
  );

  const aim = useCallback(() => {
    camera.position
      .set(...eye(view))
      .multiplyScalar(1000)
      .add(new Vector3(...view.at));
    camera.up.set(0, 0, 1);
    camera.lookAt(...view.at);
    camera.zoom = pixels;
    camera.updateProjectionMatrix();
  }, [camera, view, pixels]);
  useFrame(aim, -1);
  useEffect(() => invalidate(), [view, invalidate]);

  const body = useRef<Mesh>(null);
  const pointed = useCallback(
    (met: readonly Intersection[]): Pointed | null => {
      const hits = met.flatMap(({ faceIndex, point: at, object }) => {
        const p = new Vector3().copy(at).applyMatrix4(back);
        const gone = section && p.dot(new Vector3(...section.normal)) > section.at;
        if (object !== body.current || typeof faceIndex !== "number" || gone) return [];
        return [{ facet: faceIndex, point: [p.x, p.y, p.z] as Vec3 }];
      });
      const [first, ...behind] = hits;
      return first ? { ...first, behind } : null;
    },
    [back, section],
  );
  useEffect(() => {
    hit.current = (x, y) => {
      if (!body.current) return null;
      aim(); // what is seen may be a frame older
      camera.updateMatrixWorld();
      body.current.updateWorldMatrix(true, false);
      const box = gl.domElement.getBoundingClientRect();
      const ray = new Raycaster();
      ray.setFromCamera(
        new Vector2((2 * (x - box.left)) / box.width - 1, 1 - (2 * (y - box.top)) / box.height),
        camera,
      );
      return pointed(ray.intersectObject(body.current, false));
    };
    return () => {
      hit.current = null;
    };
  }, [hit, aim, camera, gl, pointed]);
  const leave = useCallback(() => {
    onUnder(0);
    setHotFace(-1);
  }, [onUnder]);
  const point = useCallback(
    (e: ThreeEvent<PointerEvent>) => {
      const at = pointed(e.intersections);
      if (!at) return leave();
      onUnder(shape.features[at.facet] ?? 0);
      if (lights) setHotFace((wide ? shape.wide : shape.face)[at.facet] ?? -1);
    },
    [pointed, leave, onUnder, shape, lights, wide],
  );
  return (
    <>
      <group matrixAutoUpdate={false} matrix={matrix}>
        <mesh
          ref={body}
          geometry={shape.geometry}
          material={paper}
          raycast={raycast}
          onPointerMove={answers ? point : undefined}
          onPointerOut={answers ? leave : undefined}
        />
        <lineSegments geometry={shape.edges} material={ink} raycast={() => null} />
        {ghosts?.map((g, i) => (
          <Through key={i} {...g} />
        ))}
      </group>
      {cut && <Section loops={cut.loops} height={floor + cut.height} />}
    </>
  );
});

/** A body seen through the part, or a sheet seen from both sides. */
function Through({ corners, colour, both }: { corners: Float32Array; colour: string; both?: boolean }) {
  const invalidate = useThree((s) => s.invalidate);
  const geometry = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new BufferAttribute(corners, 3));
    return made;
  }, [corners]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  return (
    <mesh geometry={geometry} raycast={() => null} renderOrder={2}>
      <meshBasicMaterial
        color={colour}
        transparent
        opacity={0.5}
        depthTest={!!both}
        depthWrite={false}
        side={both ? DoubleSide : FrontSide}
      />
    </mesh>
  );
}

const AXES: readonly (readonly [string, Vec3])[] = [
  ["x", [1, 0, 0]],
  ["y", [0, 1, 0]],
  ["z", [0, 0, 1]],
];

/** px: in a narrower column axes and scale stand above the button that would share their corner. */
const NARROW = 260;

/** The part's own axes as they lie in the picture; one that points at the eye is a dot. */
function Axes({ picture: seen }: { picture: Picture }) {
  return (
    <svg className="-mb-1 -ml-1" width="56" height="56" viewBox="-28 -28 56 56" role="img" aria-label="The part's axes">
      {AXES.map(([name, axis]) => {
        const [x, y, near] = seen.seen(axis);
        const flat = Math.hypot(x, y);
        return (
          <g key={name} opacity={near < -0.2 ? 0.5 : 1}>
            {flat < 0.15 ? (
              <circle r="2" fill="currentColor" />
            ) : (
              <path d={`M0 0 L${16 * x} ${-16 * y}`} stroke="currentColor" strokeWidth="1.2" />
            )}
            <text
              x={flat < 0.15 ? 6 : 22 * x}
              y={(flat < 0.15 ? 0 : -22 * y) + 3.5}
              className="figure fill-current text-[10.5px]"
              textAnchor="middle"
            >
              {name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

function ScaleBar({ pixelsPerMm }: { pixelsPerMm: number }) {
  const length = [...STEPS].reverse().find((s) => s * pixelsPerMm <= 130) ?? 0.1;
  return (
    <div className="bg-paper/85">
      <svg width={length * pixelsPerMm + 2} height="8" aria-hidden="true">
        <path
          d={`M1 0 v8 M1 4 h${length * pixelsPerMm} m0 -4 v8`}
          stroke="currentColor"
          strokeWidth="1.2"
          fill="none"
        />
      </svg>
      <div className="figure text-[11px] leading-3">{figure(length, length < 1 ? 1 : 0)} mm</div>
    </div>
  );
}
