import * as THREE from 'three';
import { afar } from './surfaceShader';
import { withViews } from './views';
import { skyToward, type Mirrored } from './water';
import { patched } from './patched';

/** Bodies of ice and water: they mirror the sky, show it upside down, and let some of what is behind them through. */
export function clearMaterial(
  { sky }: Pick<Mirrored, 'sky'>,
  index: number,
  milky: number,
  /** Metres of radius; what is less than a pixel is drawn as a film on what carries it. 0: however small it is seen. */
  size = 0,
): THREE.Material {
  const material = new THREE.MeshBasicMaterial({ transparent: true, depthWrite: false });
  material.customProgramCacheKey = () => 'clear';
  material.onBeforeCompile = (program) => {
    Object.assign(program.uniforms, {
      uSky: sky,
      uIndex: { value: index },
      uMilky: { value: milky },
      uSize: { value: size },
    });
    program.vertexShader = patched(
      program.vertexShader,
      ['void main() {', 'varying vec3 vFrom;\nvarying vec3 vOut;\nvoid main() {'],
      [
        '#include <fog_vertex>',
        `#include <fog_vertex>
vFrom = (modelMatrix * vec4(position, 1.0)).xyz - cameraPosition;
vOut = mat3(modelMatrix) * normal;`,
      ],
    );
    program.fragmentShader = patched(
      program.fragmentShader,
      ['void main() {', `${body}\nvoid main() {`],
      ['#include <map_fragment>', 'diffuseColor = seen_through();'],
    );
    withViews(program);
  };
  return material;
}

const body = /* glsl */ `
varying vec3 vFrom;
varying vec3 vOut;
uniform float uIndex;
uniform float uMilky;
uniform float uSize;
${afar}
${skyToward}
vec4 seen_through() {
  vec3 look = normalize(vFrom), out_ = normalize(vOut);
  float facing = max(0.0, -dot(look, out_));
  float least = pow((uIndex - 1.0) / (uIndex + 1.0), 2.0);
  float mirrors = least + (1.0 - least) * pow(1.0 - facing, 5.0);
  // What is bent through a round body comes from the other side: the sky stands below in it, the ground above.
  vec3 bent = refract(look, out_, 1.0 / (uIndex * uIndex));
  vec3 within = sky_toward(bent) * mix(0.28, 1.0, smoothstep(-0.4, 0.3, bent.y));
  vec3 light = mix(within, sky_toward(reflect(look, out_)), mirrors);
  // Across the way to the eye: what leans away is no larger for that.
  float pixel = min(length(dFdx(vFrom)), length(dFdy(vFrom)));
  float seen = uSize > 0.0 ? 1.0 - less_than_a_pixel(pixel, uSize) : 1.0;
  return vec4(light, seen * mix(uMilky, 1.0, max(mirrors, 0.75 * pow(1.0 - facing, 2.0))));
}
`;
