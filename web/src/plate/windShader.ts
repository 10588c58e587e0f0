import * as THREE from 'three';
import type { PlanOf } from '../api/client';

/**
 * How far plants are bent by the wind. The formulas are those of core/cenote_core/drifts/wind.py; proofs and
 * hand-overs hold one moment of the same movement.
 */
export const windUniforms = {
  /** Direction the wind blows toward (x, z), speed in m/s, gusts 0..1. */
  uWind: { value: new THREE.Vector4(1, 0, 0, 0) },
  /** Width of a gust in metres, time in seconds. */
  uGust: { value: new THREE.Vector2(14, 0) },
};

export function setWind(weather: PlanOf<'weather'>, time = weather.moment) {
  const from = THREE.MathUtils.degToRad(weather.wind_from);
  windUniforms.uWind.value.set(-Math.sin(from), Math.cos(from), weather.wind, weather.gusts);
  windUniforms.uGust.value.set(weather.gust_size, time);
}

export const windHead = /* glsl */ `
attribute vec4 sway;
uniform vec4 uWind;
uniform vec2 uGust;
uniform float uTall;

vec3 swayOffset(vec3 foot, float size) {
  if (uWind.z <= 0.0) return vec3(0.0);
  vec4 w = sway * (255.0 / 127.0);
  float time = uGust.y, height = max(uTall * size, 0.05);
  float along = dot(foot.xz, uWind.xy) / uGust.x - time * uWind.z / uGust.x;
  float across = dot(foot.xz, vec2(-uWind.y, uWind.x)) / uGust.x;
  float wave = 0.6 * sin(6.2831853 * along) + 0.4 * sin(6.2831853 * (1.7 * along + 0.6 * across));
  float force = clamp(uWind.z / 12.0 * (1.0 + uWind.w * wave), 0.0, 2.0);
  float own = fract(foot.x * 0.731 + foot.z * 1.137);
  float rate = 1.1 / sqrt(max(height, 0.15));
  float swing = 1.0 + 0.35 * sin(6.2831853 * (rate * time + own));
  float lean = height * 0.16 * force * w.x * swing;
  float bob = height * 0.045 * force * w.y * sin(6.2831853 * (2.3 * rate * time + w.w + own));
  float flutter = 0.014 * w.z * (force + 0.15) * sin(6.2831853 * (3.7 * time + 5.0 * w.w + 3.0 * own));
  vec2 flat_ = lean * uWind.xy + flutter * vec2(-uWind.y, uWind.x);
  return vec3(flat_.x, bob - 0.5 * lean * lean / height, flat_.y);
}
`;

const projected = /* glsl */ `
vec4 mvPosition = vec4(transformed, 1.0);
#ifdef USE_INSTANCING
  mvPosition = instanceMatrix * mvPosition;
  mvPosition.xyz += swayOffset(instanceMatrix[3].xyz, length(instanceMatrix[1].xyz));
#endif
mvPosition = modelViewMatrix * mvPosition;
gl_Position = projectionMatrix * mvPosition;
`;

/**
 * Let a material's program bend what it draws; `tall` is the plant's own height in metres. Geometry without weights
 * stands still: an attribute that is not there reads (0, 0, 0, 1).
 */
export function withWind(program: THREE.WebGLProgramParametersWithUniforms, tall: number) {
  Object.assign(program.uniforms, windUniforms, { uTall: { value: tall } });
  program.vertexShader = windHead + program.vertexShader.replace('#include <project_vertex>', projected);
}
