import * as THREE from 'three';
import { formulas } from './formulas.gen';
import { rings, sheetMaterial, skyToward, type Mirrored } from './water';

/** As many waves as the core sums up. */
const WAVES = 24;
/** Metres of a light pattern's lever for each metre of water, as in the core. */
const BENT = 0.25;
/** What the floor throws back of the light that the waves bundle on it. */
const FLOOR = 0.14;

export interface Sun {
  direction: { value: THREE.Vector3 };
  light: { value: THREE.Color };
}

export interface OpenWater {
  waves: number[][];
  loses: number[];
  murk: number;
  light: number;
}

/**
 * Still and running water: the same waves as in proofs bend what is mirrored, bundle the sun on the floor, and hide it the
 * deeper it lies.
 */
export function openWaterMaterial({ sky, rain, time }: Mirrored, sun: Sun): THREE.Material {
  const own = {
    uWaves: { value: Array.from({ length: WAVES }, () => new THREE.Vector4()) },
    uPhases: { value: new Float32Array(WAVES) },
    uLoses: { value: new THREE.Vector3() },
    uMurk: { value: 0 },
    uLight: { value: 0 },
  };
  const material = sheetMaterial({
    name: 'open water',
    uniforms: { ...own, uSky: sky, uRain: rain, uTime: time, uSun: sun.direction, uSunLight: sun.light },
    attributes: ['depth', 'foam'],
    body,
    colour: 'open_water()',
  });
  material.userData.own = own;
  return material;
}

/** Hand a water's numbers to its material. */
export function setOpenWater(material: THREE.Material, { waves, loses, murk, light }: OpenWater) {
  const { own } = material.userData;
  waves.forEach(([x, z, height, rate, phase], k) => {
    own.uWaves.value[k].set(x, z, height, rate);
    own.uPhases.value[k] = phase;
  });
  own.uLoses.value.fromArray(loses);
  own.uMurk.value = murk;
  own.uLight.value = light;
}

const body = /* glsl */ `
uniform vec4 uWaves[${WAVES}];
uniform float uPhases[${WAVES}];
uniform vec3 uLoses;
uniform float uMurk;
uniform float uLight;
uniform vec3 uSun;
uniform vec3 uSunLight;
${skyToward}
${formulas}
${rings}
// Slopes of the waves; those narrower than two pixels are left out.
vec2 sloped(vec2 at) {
  vec2 lean = vec2(0.0);
  float pixel = max(length(dFdx(at)), length(dFdy(at)));
  for (int k = 0; k < ${WAVES}; k++) {
    vec4 wave = uWaves[k];
    float seen = 1.0 - smoothstep(0.8, 2.2, length(wave.xy) * pixel);
    lean += wave.xy * (wave.z * seen * cos(dot(wave.xy, at) - wave.w * uTime + uPhases[k]));
  }
  return lean;
}
// How much light the waves send to a place of the floor, against level water: by how they bend its neighbourhood.
float bundled(vec2 at, float lever) {
  float xx = 0.0, xz = 0.0, zz = 0.0;
  for (int k = 0; k < ${WAVES}; k++) {
    vec4 wave = uWaves[k];
    float high = -wave.z * sin(dot(wave.xy, at) - wave.w * uTime + uPhases[k]);
    xx += high * wave.x * wave.x;
    xz += high * wave.x * wave.y;
    zz += high * wave.y * wave.y;
  }
  return min(5.0, 1.0 / max(abs((1.0 + lever * xx) * (1.0 + lever * zz) - lever * lever * xz * xz), 0.12));
}
// Bubbles at two sizes, by how near a place is to the rim of its cell.
float bubbles(vec2 at) {
  float found = 0.0;
  for (int size = 0; size < 2; size++) {
    vec2 place = at * (size == 0 ? 70.0 : 170.0), cell = floor(place);
    float nearest = 9.0, second = 9.0;
    for (int k = 0; k < 9; k++) {
      vec2 other = cell + vec2(float(k % 3) - 1.0, float(k / 3) - 1.0);
      vec2 own = fract(sin(vec2(dot(other, vec2(127.1, 311.7)), dot(other, vec2(269.5, 183.3)))) * 43758.5453);
      float away = length(other + own - place);
      second = away < nearest ? nearest : min(second, away);
      nearest = min(nearest, away);
    }
    found = max(found, 0.35 + 0.65 * smoothstep(0.3, 0.05, second - nearest));
  }
  return found;
}
vec4 open_water() {
  vec3 look = normalize(vFrom);
  vec2 lean = sloped(vPlace) + (uRain > 0.0 ? ringed(vPlace) : vec2(0.0));
  vec3 normal = normalize(vec3(-lean.x, 1.0, -lean.y));
  float mirrors = water_mirrors(max(0.0, -dot(look, normal)));
  vec3 bent = refract(look, normal, 1.0 / 1.333);
  float deep = max(vDepth, 0.0), way = deep / max(-bent.y, 0.2);
  vec3 through = exp(-uLoses * way) * exp(-uMurk * way);
  vec3 above = sky_toward(vec3(0.0, 1.0, 0.0)) + uSunLight * (max(uSun.y, 0.0) * 0.3183);
  // Mud in the water throws light back; so does, a little, the water itself.
  vec3 mud = vec3(MUD_RED, MUD_GREEN, MUD_BLUE) * 1.5;
  vec3 within = above * (1.0 - through) * mix(vec3(0.004, 0.012, 0.014), mud, uMurk / (uMurk + 0.25));
  vec2 floored = vPlace + bent.xz * way;
  float aside = deep / sqrt(1.0 - (1.0 - uSun.y * uSun.y) / 1.777) / 1.333;
  float pattern = bundled(floored + uSun.xz * aside, ${BENT.toFixed(2)} * deep);
  vec3 dance = uSunLight * (uLight * (pattern - 1.0) * max(uSun.y, 0.0) * ${FLOOR.toFixed(2)} * 0.3183) * through * through;
  float kept = dot(through, vec3(0.3333));
  float alpha = 1.0 - (1.0 - mirrors) * kept;
  vec3 light = mirrors * sky_toward(reflect(look, normal)) + (1.0 - mirrors) * (within + dance);
  float white = vFoam > 0.01 ? smoothstep(0.15, 0.6, vFoam * bubbles(vPlace)) : 0.0;
  light = mix(light, above * 0.75, white);
  alpha = mix(alpha, 1.0, white);
  return vec4(max(light, 0.0) / max(alpha, 0.02), alpha);
}
`;
