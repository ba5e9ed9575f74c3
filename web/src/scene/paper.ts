/** How the specimen is drawn: flat warm material, thin layer lines, needing faces in crown, the pointed feature in ochre. */
import * as THREE from "three";

import { INK as INK_COLOUR, MOSS } from "../domain/palette";
import { RAMP } from "../domain/ramp";
import type { Field } from "../domain/strength";
import type { Vec3 } from "../domain/vectors";

const UNCUT = 1e9;
/** A sine that no face leans past. */
const NO_FACE = 2;

/** Regions of the surface, on the part and in lists: dyes that keep apart, none of them the crown red of failing. */
export const REGION_COLOURS = [
  MOSS,
  "#7d5a86",
  "#8a8436",
  "#4a5f8c",
  "#a8674a",
  "#5d8a5f",
  "#8c5568",
  "#5f5a4c",
] as const;

const vertex = /* glsl */ `
  attribute float mark;
  attribute float face;
  attribute float wide;
  attribute float tint;
  uniform float uWide;
  flat varying float vFace;
  flat varying float vTint;
  uniform vec3 uUp;
  uniform vec3 uCentre;
  varying vec3 vNormalPart;
  varying vec3 vNormalView;
  varying float vHeight;
  varying vec3 vPart;
  flat varying float vMark;
  void main() {
    vPart = position;
    vNormalPart = normal;
    vNormalView = normalize(mat3(modelViewMatrix) * normal);
    vHeight = dot(position - uCentre, uUp);
    vMark = mark;
    vFace = uWide > 0.5 ? wide : face;
    vTint = tint;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;

const fragment = /* glsl */ `
  precision highp sampler3D;
  uniform sampler3D uField;
  uniform float uFieldMost;
  uniform vec3 uFieldLow;
  uniform vec3 uFieldSpan;
  uniform vec3 uRamp[7];
  uniform float uNamed;
  uniform float uNamedHalf;
  varying vec3 vPart;
  uniform vec3 uUp;
  uniform float uFloor;
  uniform float uCut;
  uniform vec4 uSection;
  uniform float uSectioned;
  uniform float uLimit;
  uniform float uPitch;
  uniform float uHot;
  uniform float uHotFace;
  uniform float uFaceOnDesk;
  uniform vec3 uTints[8];
  flat varying float vFace;
  flat varying float vTint;
  varying vec3 vNormalPart;
  varying vec3 vNormalView;
  varying float vHeight;
  flat varying float vMark;
  void main() {
    vec3 n = normalize(vNormalView);
    float light = 0.82 + 0.20 * max(dot(n, normalize(vec3(-0.35, 0.75, 0.55))), 0.0) + 0.04 * max(n.z, 0.0);
    vec3 paper = vec3(0.905, 0.872, 0.776);
    vec3 colour = paper * light;
    float h = vHeight - uFloor;
    if (h > uCut) discard;
    if (uSectioned > 0.5 && dot(vPart, uSection.xyz) > uSection.w) discard;
    float d = dot(normalize(vNormalPart), uUp);
    bool needs = d < -uLimit && h > 0.05;
    if (needs) colour = mix(colour, vec3(0.702, 0.149, 0.118), 0.62);
    if (uFieldMost > 0.0) {
      float share = texture(uField, (vPart - uFieldLow) / uFieldSpan).r * uFieldMost;
      if (share > 1.0) {
        float hatch = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
        colour = mix(vec3(0.702, 0.149, 0.118), vec3(0.85, 0.42, 0.36), hatch) * light;
      } else if (share > 0.0) {
        colour = uRamp[int(min(floor(share * 7.0), 6.0))] * light;
      }
    }
    if (abs(h - uNamed) < uNamedHalf) colour = vec3(0.702, 0.149, 0.118);
    if (vTint > 0.5) colour = mix(colour, uTints[int(vTint + 0.5) - 1], 0.62);
    if (uHotFace >= 0.0 && abs(vFace - uHotFace) < 0.5) colour = mix(colour, vec3(0.788, 0.541, 0.106), 0.45);
    if (uFaceOnDesk >= 0.0 && abs(vFace - uFaceOnDesk) < 0.5) colour = mix(colour, vec3(0.788, 0.541, 0.106), 0.8);
    if (uHot != 0.0 && abs(vMark - uHot) < 0.5) colour = mix(colour, vec3(0.788, 0.541, 0.106), 0.75);
    if (uPitch > 0.0 && abs(d) < 0.985) {
      float t = h / uPitch;
      float width = fwidth(t);
      float line = smoothstep(0.5 - 0.9 * width, 0.5, abs(fract(t) - 0.5));
      colour *= 1.0 - 0.16 * line * (1.0 - smoothstep(0.42, 0.6, width));
    }
    float facing = abs(n.z);
    // What is cut away shows the inside of the far walls: in one tone they look like the section itself.
    if (uSectioned > 0.5 && !gl_FrontFacing) { gl_FragColor = vec4(0.62, 0.53, 0.42, 1.0); return; }
    colour *= mix(0.62, 1.0, smoothstep(0.02, 0.16, facing));
    gl_FragColor = vec4(colour, 1.0);
  }
`;

const dyed = (colours: readonly string[]) =>
  Array.from({ length: 8 }, (_, i) => new THREE.Color().setStyle(colours[i] ?? "#000000", THREE.LinearSRGBColorSpace));

export class Paper extends THREE.ShaderMaterial {
  constructor() {
    super({
      vertexShader: vertex,
      fragmentShader: fragment,
      side: THREE.DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
      uniforms: {
        uUp: { value: new THREE.Vector3(0, 0, 1) },
        uCentre: { value: new THREE.Vector3() },
        uFloor: { value: 0 },
        uCut: { value: UNCUT },
        uSection: { value: new THREE.Vector4(0, 0, 1, 0) },
        uSectioned: { value: 0 },
        uLimit: { value: 1 },
        uPitch: { value: 0 },
        uHot: { value: 0 },
        uHotFace: { value: -1 },
        uFaceOnDesk: { value: -1 },
        uWide: { value: 0 },
        uTints: { value: dyed(REGION_COLOURS) },
        uField: { value: null },
        uFieldMost: { value: 0 },
        uFieldLow: { value: new THREE.Vector3() },
        uFieldSpan: { value: new THREE.Vector3(1, 1, 1) },
        uRamp: { value: RAMP.map((c) => new THREE.Color().setStyle(c, THREE.LinearSRGBColorSpace)) },
        uNamed: { value: -UNCUT },
        uNamedHalf: { value: 0 },
      },
    });
  }

  /** Stands the drawing: `floor` is the plate's height along `up` from `centre`; `limit` in degrees from the vertical
   * past which faces are drawn as needing; null where nothing is measured here, so nothing is. */
  stand(up: Vec3, centre: Vec3, floor: number, limit: number | null): void {
    const u = this.uniforms as Record<string, { value: unknown }>;
    (u.uUp?.value as THREE.Vector3).set(...up);
    (u.uCentre?.value as THREE.Vector3).set(...centre);
    if (u.uFloor) u.uFloor.value = floor;
    if (u.uLimit) u.uLimit.value = limit === null ? NO_FACE : Math.sin(((limit + 0.1) * Math.PI) / 180);
  }

  set pitch(mm: number) {
    if (this.uniforms.uPitch) this.uniforms.uPitch.value = mm;
  }

  /** Nothing higher than this above the plate is drawn; null for the whole part. */
  set cut(mm: number | null) {
    if (this.uniforms.uCut) this.uniforms.uCut.value = mm ?? UNCUT;
  }

  /** Nothing beyond a plane of the part is drawn: what lies further than `at` along `normal`; null for none. */
  section(plane: { normal: Vec3; at: number } | null): void {
    const u = this.uniforms as Record<string, { value: unknown }>;
    if (u.uSectioned) u.uSectioned.value = plane ? 1 : 0;
    if (plane) (u.uSection?.value as THREE.Vector4).set(...plane.normal, plane.at);
  }

  /** The colours, 8 at most, that tinted regions name by number. */
  set dyes(colours: readonly string[]) {
    if (this.uniforms.uTints) this.uniforms.uTints.value = dyed(colours);
  }

  /** Draws a field over the part: `kept` is what its values are divided by, so that 1 is the limit; null for none. */
  field(texture: THREE.Data3DTexture | null, field: Field | null, kept: number): void {
    const u = this.uniforms as Record<string, { value: unknown }>;
    if (u.uField) u.uField.value = texture;
    if (u.uFieldMost) u.uFieldMost.value = field ? field.most / kept : 0;
    if (!field) return;
    (u.uFieldLow?.value as THREE.Vector3).set(...field.low);
    (u.uFieldSpan?.value as THREE.Vector3).set(...field.counts).multiplyScalar(field.size);
  }

  /** Marks the layer at `mm` above the plate, `half` mm up and down; null for none. */
  mark(mm: number | null, half: number): void {
    if (this.uniforms.uNamed) this.uniforms.uNamed.value = mm ?? -UNCUT;
    if (this.uniforms.uNamedHalf) this.uniforms.uNamedHalf.value = half;
  }

  set hot(mark: number) {
    if (this.uniforms.uHot) this.uniforms.uHot.value = mark;
  }

  /** Lights the face pointed at and the one taken to the desk; −1 for none. */
  light(hotFace: number, onDesk: number, wide: boolean): void {
    const u = this.uniforms;
    if (u.uHotFace) u.uHotFace.value = hotFace;
    if (u.uFaceOnDesk) u.uFaceOnDesk.value = onDesk;
    if (u.uWide) u.uWide.value = wide ? 1 : 0;
  }
}

export const INK = new THREE.LineBasicMaterial({ color: INK_COLOUR, transparent: true, opacity: 0.75 });

/** The outline of the plate: seen on light theme and on dark. */
export const PLATE = new THREE.LineBasicMaterial({ color: "#8a7a62" });
