import * as THREE from 'three';
import type { Manifest, PlanOf } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';

/** Droplets of a crown, and seconds it flies. */
const DROPLETS = 6;
const LIFE = 0.13;
const GRAVITY = 9.81;
/** Seconds between two crowns at one place in steady rain of 8 mm/h. */
const BETWEEN = 0.9;
const STEADY = 8;
/** Metres from the eye within which crowns and drips are seen. */
const REACH = 11;
/** Seconds a drop that falls is seen for. */
const SHUTTER = 1 / 60;
/** Numbers of a drip: where it hangs, metres it falls, seconds between two, share gone by. */
const DRIP = 6;

interface Places {
  at: number[];
  /** Seconds between two, share gone by, seconds until it hits, and does rain say how often? */
  timing: number[];
  which: number[];
}

function geometryOf({ at, timing, which }: Places): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(at, 3));
  geometry.setAttribute('timing', new THREE.Float32BufferAttribute(timing, 4));
  geometry.setAttribute('which', new THREE.Float32BufferAttribute(which, 1));
  return geometry;
}

const head = /* glsl */ `
attribute vec4 timing;
attribute float which;
uniform float uTime;
uniform float uPace;
const vec4 AWAY = vec4(0.0, 0.0, -2.0, 1.0);
float since() {
  float period = timing.w > 0.5 ? timing.x / max(uPace, 1e-3) : timing.x;
  return fract(uTime / period + timing.y) * period - timing.z;
}
bool far() {
  vec3 from = position - cameraPosition;
  return dot(from, from) > ${(REACH * REACH).toFixed(1)};
}
`;

const crown = /* glsl */ `
${head}
void main() {
  float age = since();
  gl_Position = AWAY;
  gl_PointSize = 1.0;
  if (age < 0.0 || age > ${LIFE.toFixed(3)} || far()) return;
  float own = fract(dot(position, vec3(71.3, 37.1, 53.9)) + which * 0.618);
  float turn = (which + own) * ${((2 * Math.PI) / DROPLETS).toFixed(5)};
  float up = 0.35 + 0.4 * own, outward = 0.25 + 0.35 * fract(own * 7.0);
  vec3 at = position + vec3(cos(turn) * outward, up - ${(GRAVITY / 2).toFixed(3)} * age, sin(turn) * outward) * age;
  if (at.y < position.y) return;
  vec4 seen = viewMatrix * vec4(at, 1.0);
  gl_Position = projectionMatrix * seen;
  gl_PointSize = clamp(2.6 / max(-seen.z, 0.3), 1.0, 4.0);
}`;

const drip = /* glsl */ `
${head}
void main() {
  // A drop is on its way until it hits.
  float t = since() + timing.z;
  gl_Position = AWAY;
  if (t > timing.z || far()) return;
  t += which * ${SHUTTER.toFixed(5)};
  vec4 seen = viewMatrix * vec4(position - vec3(0.0, ${(GRAVITY / 2).toFixed(3)} * t * t, 0.0), 1.0);
  gl_Position = projectionMatrix * seen;
}`;

const fragmentShader = /* glsl */ `
uniform float uOpacity;
void main() {
  gl_FragColor = vec4(0.84, 0.87, 0.9, uOpacity);
  #include <colorspace_fragment>
}`;

function material(vertexShader: string, opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    ...{ vertexShader, fragmentShader, transparent: true, depthWrite: false },
    uniforms: { uTime: { value: 0 }, uPace: { value: 0 }, uOpacity: { value: opacity } },
  });
}

/** Where rain hits and edges drip: crowns of droplets, and drops on their way down. */
export class HitsPart implements PlatePart {
  readonly upon = true;
  private crowns = new THREE.Points(geometryOf({ at: [], timing: [], which: [] }), material(crown, 0.55));
  private drips = new THREE.LineSegments(geometryOf({ at: [], timing: [], which: [] }), material(drip, 0.6));
  private shown = '';
  private wanted = '';

  constructor(private plate: PlateContext) {
    for (const thing of this.overlays()) {
      thing.frustumCulled = false;
      thing.renderOrder = 4;
      plate.stage.scene.add(thing);
    }
  }

  overlays() {
    return [this.crowns, this.drips];
  }

  applyView({ view }: Seen) {
    for (const thing of this.overlays()) thing.visible = view === 'lit' && Boolean(this.shown);
  }

  take({ rain, moment }: PlanOf<'weather'>, time = moment) {
    for (const { material } of [this.crowns, this.drips]) {
      material.uniforms.uTime.value = time;
      material.uniforms.uPace.value = rain / STEADY;
    }
  }

  async sync({ hits }: Manifest) {
    this.wanted = hits;
    if (hits === this.shown) return;
    const none: Packet = { arrays: {}, shapes: {}, info: {} };
    const { arrays } = hits ? unpack(await fetchPart(hits)) : none;
    // An answer that was overtaken is none.
    if (this.wanted !== hits) return;
    this.shown = hits;
    this.place((arrays.splashes as Float32Array) ?? [], (arrays.drips as Float32Array) ?? []);
    this.plate.frames.contentChanged();
  }

  private place(splashes: ArrayLike<number>, drips: ArrayLike<number>) {
    const crowns: Places = { at: [], timing: [], which: [] };
    const falling: Places = { at: [], timing: [], which: [] };
    const put = (to: Places, at: number[], timing: number[], which: number) => {
      to.at.push(...at);
      to.timing.push(...timing);
      to.which.push(which);
    };
    for (let n = 0; n < splashes.length; n += 3) {
      const at = [splashes[n], splashes[n + 1], splashes[n + 2]];
      const own = (at[0] * 71.3 + at[2] * 37.1) % 1;
      const timing = [BETWEEN * (0.6 + 0.8 * Math.abs(own)), Math.abs((own * 13) % 1), 0, 1];
      for (let k = 0; k < DROPLETS; k++) put(crowns, at, timing, k);
    }
    for (let n = 0; n < drips.length; n += DRIP) {
      const [x, y, z, air, period, phase] = Array.from({ length: DRIP }, (_, k) => drips[n + k]);
      const timing = [period, phase, Math.sqrt((2 * air) / GRAVITY), 0];
      for (let k = 0; k < DROPLETS; k++) put(crowns, [x, y - air, z], timing, k);
      for (const end of [0, 1]) put(falling, [x, y, z], timing, end);
    }
    this.crowns.geometry.dispose();
    this.drips.geometry.dispose();
    this.crowns.geometry = geometryOf(crowns);
    this.drips.geometry = geometryOf(falling);
  }

  dispose() {
    for (const { geometry, material } of [this.crowns, this.drips]) {
      geometry.dispose();
      material.dispose();
    }
  }
}
