import * as THREE from 'three';
import { describe, expect, test } from 'vitest';
import { unpack } from '../api/packet';
import { geometryOf } from '../plate/geometry';
import { groundHit } from '../plate/heightfield';
import { bytes, figures } from './figures';

const geometry = geometryOf(unpack(bytes('ground.bin')))!;
const triangles = figures.ground.triangles.map((t) =>
  [0, 3, 6].map((k) => new THREE.Vector3(t[k], t[k + 1], t[k + 2])),
);

/** The nearest of all triangles, one after another. */
function bruteForce(ray: THREE.Ray): THREE.Vector3 | null {
  let best: THREE.Vector3 | null = null;
  for (const [a, b, c] of triangles) {
    const found = ray.intersectTriangle(a, b, c, false, new THREE.Vector3());
    if (found && (!best || found.distanceTo(ray.origin) < best.distanceTo(ray.origin))) best = found;
  }
  return best;
}

/** Numbers 0 to 1 that are the same every time. */
function draws(seed: number) {
  let state = seed;
  return () => (state = (state * 1664525 + 1013904223) % 2 ** 32) / 2 ** 32;
}

const agrees = (ray: THREE.Ray) => {
  const wanted = bruteForce(ray),
    found = groundHit(geometry, ray);
  if (!wanted) return expect(found).toBeNull();
  expect(found, `${ray.origin.toArray()} → ${ray.direction.toArray()}`).not.toBeNull();
  expect(found!.point.distanceTo(wanted)).toBeLessThan(1e-3);
  expect(found!.normal.length()).toBeCloseTo(1, 5);
};

describe('where a line of sight meets the ground', () => {
  test('from anywhere above to anywhere below', () => {
    const draw = draws(3);
    for (let k = 0; k < 300; k++) {
      const from = new THREE.Vector3(16 * draw() - 8, 2 + 8 * draw(), 14 * draw() - 7);
      const to = new THREE.Vector3(14 * draw() - 7, -4 * draw(), 11 * draw() - 5.5);
      agrees(new THREE.Ray(from, to.sub(from).normalize()));
    }
  });

  test('from within, nearly level, and straight along the grid', () => {
    const draw = draws(4);
    for (let k = 0; k < 120; k++) {
      const from = new THREE.Vector3(8 * draw() - 4, 2.4 * draw(), 6 * draw() - 3);
      const angle = k < 16 ? (k * Math.PI) / 2 : 2 * Math.PI * draw();
      agrees(new THREE.Ray(from, new THREE.Vector3(Math.cos(angle), 0.1 * draw() - 0.08, Math.sin(angle)).normalize()));
    }
  });

  test('straight down, and not at all from below or past it', () => {
    const down = new THREE.Vector3(0, -1, 0);
    for (const [x, z] of [
      [0.1, 0.2],
      [-5.9, 4.4],
      [3.3, -4.2],
    ])
      agrees(new THREE.Ray(new THREE.Vector3(x, 50, z), down));
    expect(groundHit(geometry, new THREE.Ray(new THREE.Vector3(30, 5, 0), down))).toBeNull();
    expect(groundHit(geometry, new THREE.Ray(new THREE.Vector3(0, 50, 0), new THREE.Vector3(0, 1, 0)))).toBeNull();
  });
});

describe('a mesh from the server', () => {
  test('has its faces in one run a slot', () => {
    expect(geometry.groups.reduce((sum, g) => sum + g.count, 0)).toBe(geometry.index!.count);
    expect(geometry.index!.count).toBe(3 * triangles.length);
    expect(geometry.userData.slots).toContain('ground');
  });

  test('an empty one is none', () => {
    expect(geometryOf({ arrays: {}, shapes: {}, info: { empty: true } })).toBeNull();
  });
});
