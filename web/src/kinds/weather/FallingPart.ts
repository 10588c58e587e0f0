import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { roofCode, roofUniforms } from '../../plate/roofs';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen, Plans } from '../../plate/PlatePart';

/** Half the width of the box round the eye in which single drops and flakes are seen, metres. */
const REACH = 7;
const MOST_DROPS = 5000;
const MOST_FLAKES = 6000;
/** As many drops and flakes as are seen in the box at 1 mm and 1 cm an hour; drops by the root of the rain. */
const DROPS = 1100;
const FLAKES = 1700;
/** Metres a second, and seconds a drop is seen for. */
const RAIN_FALLS = 6.5;
const SNOW_FALLS = 1.1;
const SHUTTER = 1 / 60;

/** Places in a box of size 1, by a sequence that fills it evenly; each stands for both ends of a streak. */
function scattered(count: number, ends: number): THREE.BufferGeometry {
  const places = new Float32Array(count * ends * 3);
  const which = new Float32Array(count * ends);
  const turns = [0.8191725133961645, 0.6710436067037893, 0.5497004779019703];
  for (let n = 0; n < count; n++)
    for (let end = 0; end < ends; end++) {
      const at = n * ends + end;
      turns.forEach((turn, k) => (places[at * 3 + k] = (0.5 + turn * (n + 1)) % 1));
      which[at] = end;
    }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(places, 3));
  geometry.setAttribute('end', new THREE.BufferAttribute(which, 1));
  return geometry;
}

/** Every place goes its way and comes in again on the other side, so that the box round the eye stays full. */
const vertexShader = /* glsl */ `
attribute float end;
uniform vec3 uVelocity;
uniform float uTime;
uniform float uTossed;
${roofCode}
void main() {
  float own = fract(dot(position, vec3(71.3, 37.1, 53.9)));
  vec3 tossed = uTossed * vec3(sin(uTime * 1.3 + own * 40.0), 0.0, cos(uTime * 1.1 + own * 70.0));
  vec3 gone = position * ${(2 * REACH).toFixed(1)} + uVelocity * uTime * (0.8 + 0.4 * own) + tossed;
  vec3 at = mod(gone - cameraPosition + ${REACH.toFixed(1)}, ${(2 * REACH).toFixed(1)}) - ${REACH.toFixed(1)};
  at += end * uVelocity * ${SHUTTER.toFixed(5)};
  vec3 where = at + cameraPosition;
  vec4 seen = viewMatrix * vec4(where, 1.0);
  gl_Position = projectionMatrix * seen;
  // Under a roof, and in the ground, nothing falls.
  if (roofed(where)) gl_Position = vec4(0.0, 0.0, -2.0, 1.0);
  gl_PointSize = clamp(9.0 / max(-seen.z, 0.4), 1.0, 12.0);
}`;

const fragmentShader = /* glsl */ `
uniform vec4 uColour;
void main() {
  gl_FragColor = uColour;
  #include <colorspace_fragment>
}`;

function falling(opacity: number, tossed: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    vertexShader,
    fragmentShader,
    transparent: true,
    depthWrite: false,
    uniforms: {
      uVelocity: { value: new THREE.Vector3() },
      uTime: { value: 0 },
      uTossed: { value: tossed },
      ...roofUniforms,
      uColour: { value: new THREE.Vector4(0.86, 0.89, 0.92, opacity) },
    },
  });
}

/** Rain and snow in the air: held at the moment of the wind, and on its way while the wind blows. */
export class FallingPart implements PlatePart {
  private rain = new THREE.LineSegments(scattered(MOST_DROPS, 2), falling(0.32, 0));
  private snow = new THREE.Points(scattered(MOST_FLAKES, 1), falling(0.9, 0.35));
  private now = { rain: 0, snow: 0 };

  constructor(plate: PlateContext) {
    for (const thing of [this.rain, this.snow]) {
      thing.frustumCulled = false;
      thing.renderOrder = 5;
      thing.visible = false;
      plate.stage.scene.add(thing);
    }
  }

  overlays() {
    return [this.rain, this.snow];
  }

  applyView({ view }: Seen) {
    this.rain.visible = view === 'lit' && this.now.rain > 0;
    this.snow.visible = view === 'lit' && this.now.snow > 0;
  }

  take({ rain, snowfall, wind, wind_from: from, moment }: PlanOf<'weather'>, seen: Seen, time = moment) {
    this.now = { rain, snow: snowfall };
    const bearing = THREE.MathUtils.degToRad(from);
    const way = new THREE.Vector3(-Math.sin(bearing), 0, Math.cos(bearing));
    this.set(this.rain, 2 * Math.min(MOST_DROPS, Math.round(DROPS * Math.sqrt(rain))), way, wind, RAIN_FALLS, time);
    this.set(this.snow, Math.min(MOST_FLAKES, Math.round(FLAKES * snowfall)), way, wind * 0.6, SNOW_FALLS, time);
    this.applyView(seen);
  }

  private set(
    thing: THREE.LineSegments | THREE.Points,
    count: number,
    way: THREE.Vector3,
    wind: number,
    falls: number,
    time: number,
  ) {
    const { uniforms } = thing.material as THREE.ShaderMaterial;
    uniforms.uVelocity.value.copy(way).multiplyScalar(wind).setY(-falls);
    uniforms.uTime.value = time;
    thing.geometry.setDrawRange(0, count);
  }

  async sync() {}

  /** The weather that was last shown. */
  private shown: Plans[string] | undefined;

  anew({ weather }: Plans) {
    const other = this.shown !== undefined && weather !== this.shown;
    this.shown = weather;
    return other;
  }

  dispose() {
    for (const thing of [this.rain, this.snow]) {
      thing.geometry.dispose();
      (thing.material as THREE.Material).dispose();
    }
  }
}
