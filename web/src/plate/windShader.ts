import * as THREE from 'three';
import type { PlanOf } from '../api/client';
import { dustingOf } from './fallen';
import { windFormulas } from './formulas.gen';
import { roofCode, roofUniforms } from './roofs';
import { patched } from './patched';

/**
 * How far plants are bent by the wind. Proofs and hand-overs hold one moment of the same movement, by
 * the same formulas.
 */
export const windUniforms = {
  /** Direction the wind blows toward (x, z), speed in m/s, gusts 0..1. */
  uWind: { value: new THREE.Vector4(1, 0, 0, 0) },
  /** Width of a gust in metres, time in seconds, metres of snow on plants. */
  uGust: { value: new THREE.Vector3(14, 0, 0) },
};

export function setWind(weather: PlanOf<'weather'>, time = weather.moment) {
  const from = THREE.MathUtils.degToRad(weather.wind_from);
  windUniforms.uWind.value.set(-Math.sin(from), Math.cos(from), weather.wind, weather.gusts);
  windUniforms.uGust.value.set(weather.gust_size, time, dustingOf(weather));
}

export const windHead = /* glsl */ `
attribute vec4 sway;
varying vec3 vStands;
varying float vOpen;
uniform vec4 uWind;
uniform vec3 uGust;
uniform float uTall;
${windFormulas}
${roofCode}
vec3 swayOffset(vec3 foot, float size) {
  if (uWind.z <= 0.0 && uGust.z <= 0.0) return vec3(0.0);
  vec4 w = sway * (255.0 / 127.0);
  float time = uGust.y, height = max(uTall * size, SHORTEST);
  float sag = snow_sag(height, snow_load(uGust.z, uWind.z), w.x, w.y);
  if (uWind.z <= 0.0) return vec3(0.0, -sag, 0.0);
  float along = dot(foot.xz, uWind.xy) / uGust.x - time * uWind.z / uGust.x;
  float across = dot(foot.xz, vec2(-uWind.y, uWind.x)) / uGust.x;
  float force = wind_force(uWind.z, uWind.w, gust_wave(along, across));
  float own = fract(phase_seed(foot.x, foot.z));
  float rate = swing_rate(height);
  float lean = stem_lean(height, force, w.x, rate * time + own);
  float bob = branch_bob(height, force, w.y, rate, time, w.w + own);
  float flutter = leaf_flutter(force, w.z, time, 5.0 * w.w + 3.0 * own);
  vec2 level = lean * uWind.xy + flutter * vec2(-uWind.y, uWind.x);
  return vec3(level.x, bob - lean_drop(lean, height) - sag, level.y);
}
`;

const projected = /* glsl */ `
vec4 mvPosition = vec4(transformed, 1.0);
vOpen = 1.0;
#ifdef USE_INSTANCING
  vOpen = roofed(instanceMatrix[3].xyz + vec3(0.0, uTall * length(instanceMatrix[1].xyz) + ROOF_OVER, 0.0)) ? 0.0 : 1.0;
  mvPosition = instanceMatrix * mvPosition;
  mvPosition.xyz += swayOffset(instanceMatrix[3].xyz, length(instanceMatrix[1].xyz));
#endif
vStands = mvPosition.xyz;
mvPosition = modelViewMatrix * mvPosition;
gl_Position = projectionMatrix * mvPosition;
`;

/**
 * Let a material's program bend what it draws; `tall` is the plant's own height in metres. Geometry without weights
 * stands still: an attribute that is not there reads (0, 0, 0, 1).
 */
export function withWind(program: THREE.WebGLProgramParametersWithUniforms, tall: number) {
  Object.assign(program.uniforms, windUniforms, roofUniforms, { uTall: { value: tall } });
  program.vertexShader = windHead + patched(program.vertexShader, ['#include <project_vertex>', projected]);
}
