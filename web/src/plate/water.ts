import * as THREE from 'three';
import { formulas } from './formulas.gen';
import { withViews } from './views';
import { patched } from './patched';

/** The sky that water mirrors, and the light it is in. */
export interface Mirrored {
  sky: { value: THREE.Texture | null };
  /** Rain in mm/h, and the time its rings are at. */
  rain: { value: number };
  time: { value: number };
}

interface Sheet {
  /** What programs of this kind are told apart by. */
  name: string;
  uniforms: Record<string, THREE.IUniform>;
  /** Attributes of the vertices, a number each, that its fragments read as `vName`. */
  attributes?: string[];
  body: string;
  /** What its fragments are, in the terms of `body`. */
  colour: string;
}

/** A sheet of water: its fragments know where they are and how they are looked at. */
export function sheetMaterial({ name, uniforms, attributes = [], body, colour }: Sheet): THREE.Material {
  const material = new THREE.MeshBasicMaterial({
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -4,
    polygonOffsetUnits: -4,
    side: THREE.DoubleSide,
  });
  const varying = (attribute: string) => `v${attribute[0].toUpperCase()}${attribute.slice(1)}`;
  const varyings = [
    'varying vec3 vFrom;',
    'varying vec2 vPlace;',
    ...attributes.map((a) => `varying float ${varying(a)};`),
  ];
  const declared = [...varyings, ...attributes.map((a) => `attribute float ${a};`)].join('\n');
  const handed = attributes.map((a) => `${varying(a)} = ${a};`).join('\n');
  material.customProgramCacheKey = () => name;
  material.onBeforeCompile = (program) => {
    Object.assign(program.uniforms, uniforms);
    program.vertexShader = patched(
      program.vertexShader,
      ['void main() {', `${declared}\nvoid main() {`],
      [
        '#include <fog_vertex>',
        `#include <fog_vertex>
vec4 at = modelMatrix * vec4(position, 1.0);
vFrom = at.xyz - cameraPosition;
vPlace = at.xz;
${handed}`,
      ],
    );
    program.fragmentShader = patched(
      program.fragmentShader,
      ['void main() {', `${varyings.join('\n')}\n${body}\nvoid main() {`],
      ['#include <map_fragment>', `diffuseColor = ${colour};`],
    );
    withViews(program);
  };
  return material;
}

/** Level water: it mirrors the sky by how flat it is seen, and lets through what lies under it. */
export function waterMaterial({ sky, rain, time }: Mirrored): THREE.Material {
  const uniforms = { uSky: sky, uRain: rain, uTime: time };
  return sheetMaterial({ name: 'water', uniforms, body: mirror, colour: 'mirrored()' });
}

/** The sky in a direction; what is below the horizon counts as at it. */
export const skyToward = /* glsl */ `
uniform sampler2D uSky;
vec3 sky_toward(vec3 way) {
  float up = clamp(max(way.y, 0.01), -1.0, 1.0);
  return textureLod(uSky, vec2(atan(way.z, way.x) * 0.15915494 + 0.5, asin(up) * 0.31830989 + 0.5), 0.0).rgb;
}
`;

export const rings = /* glsl */ `
uniform float uRain;
uniform float uTime;
// Rings of drops: one after another in each cell, at a place and a time of its own, wider and flatter as it gets older.
vec2 ringed(vec2 at) {
  vec2 lean = vec2(0.0);
  for (int layer = 0; layer < 2; layer++) {
    vec2 cell = floor(at * 5.0 + float(layer) * 0.5);
    float own = fract(sin(dot(cell, vec2(12.9898, 78.233)) + float(layer) * 3.1) * 43758.5453);
    float turn = uTime * 1.4 + own * 17.0;
    float drop = fract(sin(floor(turn) * 91.7 + own * 53.1) * 23421.63);
    vec2 middle = (cell - float(layer) * 0.5 + 0.25 + 0.5 * vec2(drop, fract(drop * 37.0))) / 5.0;
    float age = fract(turn);
    vec2 from = at - middle;
    float away = length(from);
    float crest = (away - 0.08 * age) / 0.006;
    lean += from / max(away, 1e-4) * sin(crest) * exp(-crest * crest * 0.12) * (1.0 - age) * 0.16;
  }
  return lean * min(1.0, uRain / 4.0);
}
`;

const mirror = /* glsl */ `
${skyToward}
${formulas}
vec2 rippled(vec2 at) {
  return 0.006 * vec2(sin(at.x * 23.0 + 1.7 * sin(at.y * 17.0)), sin(at.y * 29.0 + 1.9 * sin(at.x * 13.0)));
}
${rings}
vec4 mirrored() {
  vec3 look = normalize(vFrom);
  vec2 lean = rippled(vPlace) + (uRain > 0.0 ? ringed(vPlace) : vec2(0.0));
  vec3 normal = normalize(vec3(lean.x, 1.0, lean.y));
  float seen = max(0.0, -dot(look, normal));
  return vec4(sky_toward(reflect(look, normal)), water_mirrors(seen));
}
`;
