import * as THREE from 'three';

/** Over a box of the ground, how high the uppermost thing is: under it nothing falls. */
export const roofUniforms = {
  uRoofs: { value: null as THREE.Texture | null },
  /** Its corner (x, z) and its size; no size where nothing is known. */
  uRoofBox: { value: new THREE.Vector4() },
};

export const roofCode = /* glsl */ `
uniform sampler2D uRoofs;
uniform vec4 uRoofBox;
// Metres over a thing from which a roof counts.
const float ROOF_OVER = 0.25;
bool roofed(vec3 where) {
  vec2 over = (where.xz - uRoofBox.xy) / uRoofBox.zw;
  bool within = uRoofBox.z > 0.0 && all(greaterThan(over, vec2(0.0))) && all(lessThan(over, vec2(1.0)));
  return within && where.y < textureLod(uRoofs, over, 0.0).r;
}
`;

export interface Roofs {
  values: Float32Array;
  shape: number[];
  low: number[];
  high: number[];
}

export function takeRoofs(roofs: Roofs | null) {
  const { uRoofs, uRoofBox } = roofUniforms;
  uRoofs.value?.dispose();
  uRoofs.value = null;
  uRoofBox.value.set(0, 0, 0, 0);
  if (!roofs) return;
  const { values, shape, low, high } = roofs;
  const texture = new THREE.DataTexture(values, shape[1], shape[0], THREE.RedFormat, THREE.FloatType);
  texture.needsUpdate = true;
  uRoofs.value = texture;
  uRoofBox.value.set(low[0], low[2], high[0] - low[0], high[2] - low[2]);
}
