import * as THREE from 'three';

/** Texels of the map that says where water is, along a side at most, and metres of one at least. */
const SIDE = 512;
const FINEST = 0.3;
/** Metres from water within which the light it mirrors is looked for, as in proofs. */
const REACH = 7;

const nowhere = new THREE.DataTexture(new Float32Array(4), 1, 1, THREE.RGBAFormat, THREE.FloatType);
const even = new THREE.DataArrayTexture(new Uint8Array(1), 1, 1, 1);
even.format = THREE.RedFormat;
for (const texture of [nowhere, even]) texture.needsUpdate = true;

/** What surfaces read of the light that water near by throws on them: the same patterns as in proofs. */
export const waterLit = {
  /** Level in metres, number of the water, strength, and 1 where there is any. */
  uWaterMap: { value: nowhere as THREE.Texture },
  /** Its corner (x, z) and its size; no size where there is no water. */
  uWaterBox: { value: new THREE.Vector4() },
  uWaterLevel: { value: 0 },
  uWaterPatterns: { value: even as THREE.Texture },
  /** Metres of a tile, lever a metre of way, least lever and how many times the next is as large. */
  uWaterLever: { value: new THREE.Vector4(1, 1, 1, 3) },
  uWaterPlanes: { value: 1 },
  uWaterBrightest: { value: 1 },
  uSunSeen: { value: new THREE.Vector3(0, 1, 0) },
  uSunLight: { value: new THREE.Color(0) },
  uSunShadow: { value: new THREE.Matrix4() },
};

/** A water as it lies: positions of its sheet, and what it throws. */
export interface Lying {
  positions: Float32Array;
  light: number;
  planes: Uint8Array;
  side: number;
  levers: number[];
  tile: number;
  mirrored: number;
  brightest: number;
}

/** Say which waters there are. */
export function takeWaters(waters: Lying[]) {
  const { uWaterMap, uWaterBox, uWaterPatterns, uWaterLevel } = waterLit;
  for (const held of [uWaterMap, uWaterPatterns])
    if (held.value !== nowhere && held.value !== even) held.value.dispose();
  uWaterMap.value = nowhere;
  uWaterPatterns.value = even;
  uWaterBox.value.set(0, 0, 0, 0);
  if (!waters.length) return;
  const { values, width, height, box, level } = mapOf(waters);
  const map = new THREE.DataTexture(values, width, height, THREE.RGBAFormat, THREE.FloatType);
  map.needsUpdate = true;
  const [{ side, levers, tile, mirrored, brightest }] = waters;
  const all = new Uint8Array(waters.length * levers.length * side * side);
  waters.forEach(({ planes }, k) => all.set(planes, k * levers.length * side * side));
  const patterns = new THREE.DataArrayTexture(all, side, side, waters.length * levers.length);
  Object.assign(patterns, { format: THREE.RedFormat, wrapS: THREE.RepeatWrapping, wrapT: THREE.RepeatWrapping });
  Object.assign(patterns, { minFilter: THREE.LinearFilter, magFilter: THREE.LinearFilter, needsUpdate: true });
  uWaterMap.value = map;
  uWaterPatterns.value = patterns;
  uWaterBox.value.set(...box);
  uWaterLevel.value = level;
  waterLit.uWaterLever.value.set(tile, mirrored, levers[0], levers[1] / levers[0]);
  waterLit.uWaterPlanes.value = levers.length;
  waterLit.uWaterBrightest.value = brightest;
}

/** The waters seen from above. */
export function mapOf(waters: Pick<Lying, 'positions' | 'light'>[]) {
  let [left, far, right, near] = [Infinity, Infinity, -Infinity, -Infinity];
  let [sum, count] = [0, 0];
  for (const { positions } of waters)
    for (let k = 0; k < positions.length; k += 3) {
      left = Math.min(left, positions[k]);
      right = Math.max(right, positions[k]);
      far = Math.min(far, positions[k + 2]);
      near = Math.max(near, positions[k + 2]);
      sum += positions[k + 1];
      count++;
    }
  const texel = Math.max(FINEST, (right - left) / SIDE, (near - far) / SIDE);
  const width = Math.max(1, Math.ceil((right - left) / texel)),
    height = Math.max(1, Math.ceil((near - far) / texel));
  const values = new Float32Array(width * height * 4);
  waters.forEach(({ positions, light }, number) => {
    for (let k = 0; k < positions.length; k += 3) {
      const column = Math.min(width - 1, Math.floor((positions[k] - left) / texel));
      const row = Math.min(height - 1, Math.floor((positions[k + 2] - far) / texel));
      values.set([positions[k + 1], number, light, 1], (row * width + column) * 4);
    }
  });
  const box: [number, number, number, number] = [left, far, width * texel, height * texel];
  return { values, width, height, box, level: sum / Math.max(count, 1) };
}

/** Before `main`; `vWorld` is where a fragment is. */
export const waterLightHead = /* glsl */ `
uniform highp sampler2D uWaterMap;
uniform vec4 uWaterBox;
uniform float uWaterLevel;
uniform mediump sampler2DArray uWaterPatterns;
uniform vec4 uWaterLever;
uniform float uWaterPlanes;
uniform float uWaterBrightest;
uniform vec3 uSunSeen;
uniform vec3 uSunLight;
uniform mat4 uSunShadow;
vec4 waterAt(vec2 at) {
  vec2 over = (at - uWaterBox.xy) / uWaterBox.zw;
  bool within = all(greaterThan(over, vec2(0.0))) && all(lessThan(over, vec2(1.0)));
  return within ? textureLod(uWaterMap, over, 0.0) : vec4(0.0);
}
float patternPlane(float plane, vec2 at) {
  float root = textureLod(uWaterPatterns, vec3(at / uWaterLever.x, plane), 0.0).r;
  return uWaterBrightest * root * root;
}
// A pattern for any lever, between the two it lies between; less than the least is on the way to none.
float mirroredPattern(float number, float lever, vec2 at) {
  float last = uWaterPlanes - 1.0;
  float place = clamp(log(max(lever, 1e-6) / uWaterLever.z) / log(uWaterLever.w), -1.0, last);
  float low = clamp(floor(place), 0.0, max(last - 1.0, 0.0)), first = number * uWaterPlanes + low;
  float found = mix(patternPlane(first, at), patternPlane(first + 1.0, at), clamp(place - low, 0.0, 1.0));
  return 1.0 + (found - 1.0) * clamp(1.0 + place, 0.0, 1.0);
}
// The sun as water near by mirrors it onto a place: what arrives on a surface that faces so.
vec3 sunFromWater(vec3 normal) {
  if (uWaterBox.z <= 0.0 || uSunSeen.y < 0.02) return vec3(0.0);
  vec3 toward = vec3(uSunSeen.x, -uSunSeen.y, uSunSeen.z);
  float faces = dot(normal, toward), way = (vWorld.y - uWaterLevel) / uSunSeen.y;
  if (faces <= 0.0 || way > 2.0 * ${REACH.toFixed(1)}) return vec3(0.0);
  vec4 water = waterAt(vWorld.xz + toward.xz * way);
  // Running water is not level: once more with the height it has there.
  way = (vWorld.y - (water.w > 0.0 ? water.x : uWaterLevel)) / uSunSeen.y;
  vec3 met = vWorld + toward * way;
  water = waterAt(met.xz);
  if (water.w <= 0.0 || water.z <= 0.0 || way <= 0.0 || way > ${REACH.toFixed(1)}) return vec3(0.0);
  float lit = 1.0;
#if defined(USE_SHADOWMAP) && NUM_DIR_LIGHT_SHADOWS > 0
  lit = getShadow(directionalShadowMap[0], directionalLightShadows[0].shadowMapSize, directionalLightShadows[0].shadowIntensity, directionalLightShadows[0].shadowBias, directionalLightShadows[0].shadowRadius, uSunShadow * vec4(met + vec3(0.0, 0.03, 0.0), 1.0));
#endif
  float pattern = mirroredPattern(water.y, uWaterLever.y * way, met.xz);
  return uSunLight * (lit * faces * water_mirrors(uSunSeen.y) * max(0.0, 1.0 + water.z * (pattern - 1.0)));
}
`;

/** After the lights. */
export const waterLightAdded = /* glsl */ `
#include <lights_fragment_end>
reflectedLight.directDiffuse += sunFromWater(inverseTransformDirection(normal, viewMatrix)) * BRDF_Lambert(material.diffuseColor);
`;
