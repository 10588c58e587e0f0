import * as THREE from 'three';

/** Cells along a side of the map of how many stand where, at least and at most, and how wide they are between, metres. */
const FEWEST = 4;
const MOST = 160;
const CELL = 0.5;
/** So many of a hundred cells with anything on them are paler than a dot screen that is full. */
const FULL_AT = 0.97;

const blank = new THREE.DataTexture(new Uint8Array(1), 1, 1, THREE.RedFormat);
blank.needsUpdate = true;

/** The view of densities: dots on a grid turned by thirty degrees, larger where more stand. */
export const densityView = {
  uniforms: {
    uDensity: { value: blank },
    uDensityArea: { value: new THREE.Vector4(0, 0, 1, 1) },
    uDot: { value: 6 },
  } as Record<string, THREE.IUniform>,
  head: /* glsl */ `
    uniform sampler2D uDensity;
    uniform vec4 uDensityArea;
    uniform float uDot;`,
  glsl: /* glsl */ `
    #ifdef SURFACE
    vec2 at = (vWorld.xz - uDensityArea.xy) * uDensityArea.zw;
    float share = sDotted * texture2D(uDensity, at).r;
    vec2 dot_at = fract(mat2(0.866, 0.5, -0.5, 0.866) * gl_FragCoord.xy / uDot) - 0.5;
    // A disc of radius r covers pi r² of its cell; past one half they run together, as on paper.
    float radius = 0.60 * sqrt(share);
    float ink = share < 0.004 ? 0.0 : 1.0 - smoothstep(radius - 0.09, radius + 0.09, length(dot_at));
    float shade = 0.62 + 0.38 * max(0.0, dot(normal, normalize((viewMatrix * vec4(0.35, 0.85, 0.4, 0.0)).xyz)));
    gl_FragColor.rgb = mix(vec3(0.80, 0.77, 0.70) * shade, vec3(0.004, 0.095, 0.12), ink);
    #endif`,
};

export interface Counted {
  /** Things a square metre at which the dots are full. */
  full: number;
}

/** Count what stands into the map the view reads; `size` is the ground's width and depth, metres. */
export function countInto(positions: Float32Array[], size: [number, number]): Counted {
  const [width, depth] = size;
  const [columns, rows] = size.map((side) => Math.min(MOST, Math.max(FEWEST, Math.round(side / CELL))));
  const counts = new Float32Array(columns * rows);
  for (const places of positions)
    for (let n = 0; n < places.length; n += 3) {
      const x = Math.floor((places[n] / width + 0.5) * columns),
        z = Math.floor((places[n + 2] / depth + 0.5) * rows);
      if (x >= 0 && x < columns && z >= 0 && z < rows) counts[z * columns + x]++;
    }
  const smooth = averaged(counts, columns);
  const some = smooth.filter((v) => v > 0).sort();
  const most = some.length ? some[Math.min(some.length - 1, Math.floor(some.length * FULL_AT))] : 0;
  const data = new Uint8Array(columns * rows);
  if (most > 0) smooth.forEach((v, k) => (data[k] = Math.min(255, Math.round((v / most) * 255))));
  const before = densityView.uniforms.uDensity.value as THREE.DataTexture;
  if (before !== blank) before.dispose();
  const texture = new THREE.DataTexture(data, columns, rows, THREE.RedFormat);
  texture.minFilter = texture.magFilter = THREE.LinearFilter;
  texture.unpackAlignment = 1;
  texture.needsUpdate = true;
  densityView.uniforms.uDensity.value = texture;
  (densityView.uniforms.uDensityArea.value as THREE.Vector4).set(-width / 2, -depth / 2, 1 / width, 1 / depth);
  return { full: (most * columns * rows) / (width * depth) };
}

/** Means of each cell and the two beside it, along rows and then along columns; rims count themselves once more. */
function averaged(cells: Float32Array, columns: number): Float32Array {
  const mean = (from: Float32Array, step: number, first: (k: number) => boolean, last: (k: number) => boolean) =>
    from.map((v, k) => (v + (first(k) ? v : from[k - step]) + (last(k) ? v : from[k + step])) / 3);
  const along = mean(
    cells,
    1,
    (k) => k % columns === 0,
    (k) => k % columns === columns - 1,
  );
  return mean(
    along,
    columns,
    (k) => k < columns,
    (k) => k >= cells.length - columns,
  );
}

/** Give the map back. */
export function disposeDensity() {
  const { uDensity } = densityView.uniforms;
  if (uDensity.value !== blank) (uDensity.value as THREE.DataTexture).dispose();
  uDensity.value = blank;
}
