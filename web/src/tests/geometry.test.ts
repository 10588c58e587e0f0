import * as THREE from 'three';
import { describe, expect, test } from 'vitest';
import { steepApart } from '../plate/geometry';

/** A strip of ground along x whose slope grows from 0 to 80 degrees, as a mesh with smooth normals. */
function strip(columns = 41): THREE.BufferGeometry {
  const position: number[] = [],
    normal: number[] = [],
    index: number[] = [];
  for (let k = 0; k < columns; k++) {
    const slope = THREE.MathUtils.degToRad((80 * k) / (columns - 1));
    for (const z of [0, 1]) {
      position.push(k * 0.1, k * k * 0.01, z);
      normal.push(-Math.sin(slope) * 3, Math.cos(slope) * 3, 0);
    }
    if (k) index.push(2 * k - 2, 2 * k - 1, 2 * k, 2 * k, 2 * k - 1, 2 * k + 1);
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(position), 3));
  geometry.setAttribute('normal', new THREE.BufferAttribute(Float32Array.from(normal), 3));
  geometry.setIndex(new THREE.BufferAttribute(Uint32Array.from(index), 1));
  geometry.addGroup(0, index.length, 0);
  return geometry;
}

const facesOf = (index: ArrayLike<number>) =>
  Array.from({ length: index.length / 3 }, (_, k) => [index[3 * k], index[3 * k + 1], index[3 * k + 2]].join(' '));

describe('steep ground set apart', () => {
  test('no face is lost, turned or doubled', () => {
    const geometry = strip(),
      before = facesOf(geometry.index!.array);
    steepApart(geometry);
    expect(facesOf(geometry.index!.array).sort()).toEqual(before.sort());
    expect(geometry.groups.map((group) => group.materialIndex)).toEqual([0, 1]);
    expect(geometry.groups[0].count + geometry.groups[1].count).toBe(geometry.index!.count);
  });

  test('a face is steep from thirty degrees at any of its corners on, whatever the length of its normals', () => {
    const geometry = strip();
    steepApart(geometry);
    const slope = (vertex: number) => 2 * Math.floor(vertex / 2);
    const [gentle, steep] = geometry.groups.map(({ start, count }) =>
      facesOf(geometry.index!.array.slice(start, start + count)).map((face) =>
        Math.max(...face.split(' ').map((v) => slope(Number(v)))),
      ),
    );
    expect(Math.max(...gentle)).toBeLessThanOrEqual(30);
    expect(Math.min(...steep)).toBeGreaterThanOrEqual(30);
  });

  test('level ground has no such part', () => {
    const geometry = strip(12);
    geometry
      .getAttribute('normal')
      .array.fill(0)
      .forEach((_, k, all) => k % 3 === 1 && ((all as Float32Array)[k] = 1));
    steepApart(geometry);
    expect(geometry.groups).toEqual([{ start: 0, count: geometry.index!.count, materialIndex: 0 }]);
  });
});
