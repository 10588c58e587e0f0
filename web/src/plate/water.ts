import * as THREE from 'three';
import { withViews } from './views';

/** The sky that water mirrors, and the light it is in. */
export interface Mirrored {
  sky: { value: THREE.Texture | null };
}

/** Level water: it mirrors the sky by how flat it is seen, and lets through what lies under it. */
export function waterMaterial({ sky }: Mirrored): THREE.Material {
  const material = new THREE.MeshBasicMaterial({
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -4,
    polygonOffsetUnits: -4,
    side: THREE.DoubleSide,
  });
  material.customProgramCacheKey = () => 'water';
  material.onBeforeCompile = (program) => {
    program.uniforms.uSky = sky;
    program.vertexShader = program.vertexShader
      .replace('void main() {', 'varying vec3 vFrom;\nvarying vec2 vPlace;\nvoid main() {')
      .replace(
        '#include <fog_vertex>',
        '#include <fog_vertex>\nvec4 at = modelMatrix * vec4(position, 1.0);\nvFrom = at.xyz - cameraPosition;\nvPlace = at.xz;',
      );
    program.fragmentShader = program.fragmentShader
      .replace('void main() {', `${mirror}\nvoid main() {`)
      .replace('#include <map_fragment>', 'diffuseColor = mirrored();');
    withViews(program);
  };
  return material;
}

const mirror = /* glsl */ `
varying vec3 vFrom;
varying vec2 vPlace;
uniform sampler2D uSky;
// Share of the light that water throws back straight on, and more the flatter it is seen (Schlick 1994).
const float HEAD_ON = 0.02;
vec2 rippled(vec2 at) {
  return 0.006 * vec2(sin(at.x * 23.0 + 1.7 * sin(at.y * 17.0)), sin(at.y * 29.0 + 1.9 * sin(at.x * 13.0)));
}
vec4 mirrored() {
  vec3 look = normalize(vFrom);
  vec2 lean = rippled(vPlace);
  vec3 normal = normalize(vec3(lean.x, 1.0, lean.y));
  float seen = max(0.0, -dot(look, normal));
  vec3 out_ = reflect(look, normal);
  out_.y = max(out_.y, 0.01);
  vec2 uv = vec2(atan(out_.z, out_.x) * 0.15915494 + 0.5, asin(clamp(out_.y, -1.0, 1.0)) * 0.31830989 + 0.5);
  return vec4(textureLod(uSky, uv, 0.0).rgb, HEAD_ON + (1.0 - HEAD_ON) * pow(1.0 - seen, 5.0));
}
`;
