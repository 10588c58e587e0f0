import { forProcessor } from '../plate/machine';
import * as THREE from 'three';
import { beforeEach, describe, expect, test } from 'vitest';
import {
  fillBatches,
  shares,
  cull,
  laidUpAnew,
  type AssetView,
  type DriftView,
  type Sight,
} from '../kinds/drift/culling';
import type { Asset } from '../api/client';
import type { Plot } from '../kinds/drift/plots';

const FACES = [400, 100, 20, 4];

function level(faces: number) {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(9), 3));
  geometry.setAttribute('color', new THREE.BufferAttribute(new Float32Array(12).fill(1), 4));
  geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(faces * 3), 1));
  return {
    name: `fern/${FACES.indexOf(faces)}`,
    parts: [{ geometry, material: new THREE.MeshBasicMaterial(), shadow: new THREE.MeshDepthMaterial() }],
    faces,
  };
}

const asset = (height: number): AssetView => ({
  levels: FACES.map(level),
  wanted: new Set(),
  asked: new Set([0, 1, 2, 3]),
  look: `${height}`,
  height,
  radius: height / 2,
});

/** A plot of things of one size in rows from its corner; as in real plots, every beginning of it is spread over it. */
function row(cell: string, x: number, z: number, count: number, scale = 1): Plot {
  const position = new Float32Array(count * 3);
  for (let n = 0; n < count; n++) {
    const place = (n * 37) % count;
    position.set([x + (place % 10), 0, z - Math.floor(place / 10)], n * 3);
  }
  const low: [number, number, number] = [x, 0, z - count / 10],
    high: [number, number, number] = [x + 10, 0, z];
  const matrices = new Float32Array(count * 16);
  for (let n = 0; n < count; n++)
    new THREE.Matrix4()
      .makeTranslation(...(position.subarray(n * 3, n * 3 + 3) as unknown as [number, number, number]))
      .toArray(matrices, n * 16);
  return {
    cell,
    v: cell,
    low,
    high,
    count,
    position,
    scale: new Float32Array(count).fill(scale),
    asset: new Uint8Array(count),
    largest: scale,
    far: null,
    box: new THREE.Box3(new THREE.Vector3(...low), new THREE.Vector3(...high)),
    matrices: () => matrices,
    colours: () => new Float32Array(count * 3).fill(1),
    identity: String,
  };
}

const camera = new THREE.PerspectiveCamera(60, 1.5, 0.1, 4000);
camera.position.set(5, 1.5, 10);
camera.lookAt(5, 0.5, -100);
camera.updateMatrixWorld();
const frustum = new THREE.Frustum().setFromProjectionMatrix(
  new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
);
const sight = (change: Partial<Sight> = {}): Sight => ({
  eye: camera.position,
  frustum,
  detail: 1,
  best: 1,
  shadows: false,
  ...change,
});

let assets: Map<string, AssetView>;
let drift: DriftView;
const total = () => (drift.group.children as THREE.InstancedMesh[]).reduce((sum, mesh) => sum + mesh.count, 0);

beforeEach(() => {
  assets = new Map([['fern', asset(0.8)]]);
  drift = {
    key: 'd',
    tier: 'cover',
    count: 0,
    assets: ['fern'],
    plots: new Map(),
    worn: new Map(),
    wornAt: '{}',
    wanted: [],
    group: new THREE.Group(),
    pool: new Map(),
    response: {},
    own: new Map(),
  };
});

const stand = (...plots: Plot[]) => plots.forEach((plot) => drift.plots.set(plot.cell, plot));

describe('buffers of what is drawn one by one', () => {
  const buffers = () => (drift.group.children as THREE.InstancedMesh[]).map((mesh) => mesh.instanceMatrix);

  test('are those of the picture before as long as they hold enough, and are filled anew', () => {
    stand(row('near', 0, 0, 10));
    fillBatches(cull(drift, assets, sight()), Infinity);
    const before = buffers();
    stand(row('near', 1, 0, 9));
    fillBatches(cull(drift, assets, sight()), Infinity);
    expect(buffers()).toEqual(before);
    expect(buffers()[0]).toBe(before[0]);
    expect(total()).toBe(9);
    const x = (n: number) => (buffers()[0].array as Float32Array)[n * 16 + 12];
    expect(Math.min(...Array.from({ length: 9 }, (_, n) => x(n)))).toBe(1);
    stand(row('near', 0, 0, 40));
    fillBatches(cull(drift, assets, sight()), Infinity);
    expect(buffers()[0]).not.toBe(before[0]);
    expect(total()).toBe(40);
  });

  test('are given back when they were not needed for a while', () => {
    stand(row('near', 0, 0, 10));
    fillBatches(cull(drift, assets, sight()), Infinity);
    expect(drift.pool.size).toBeGreaterThan(0);
    drift.plots.clear();
    for (let k = 0; k < 40; k++) fillBatches(cull(drift, assets, sight()), Infinity);
    expect(drift.pool.size).toBe(0);
  });
});

describe('patinas on what is scattered', () => {
  const colours = () => new THREE.BufferAttribute(new Float32Array([1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1]), 4);
  const drawn = () => (drift.group.children as THREE.InstancedMesh[])[0].geometry;

  test('are the colours of the level they are for, in this drift alone', () => {
    const ours = colours();
    drift.worn.set('fern/0', ours);
    stand(row('near', 0, 0, 10));
    fillBatches(cull(drift, assets, sight()), Infinity);
    const base = assets.get('fern')!.levels[0]!.parts[0].geometry;
    expect(drawn().getAttribute('position')).toBe(base.getAttribute('position'));
    expect(base.getAttribute('color')).not.toBe(ours);
    expect(drawn().getAttribute('color')).toBe(ours);
  });

  test('give way to newer ones, and what is let go leaves what it shared', () => {
    drift.worn.set('fern/0', colours());
    stand(row('near', 0, 0, 10));
    fillBatches(cull(drift, assets, sight()), Infinity);
    const before = drawn();
    laidUpAnew(drift);
    expect(drift.group.children).toHaveLength(0);
    expect(drift.pool.size).toBe(0);
    expect(assets.get('fern')!.levels[0]!.parts[0].geometry.getAttribute('position')).toBeDefined();
    drift.worn.clear();
    fillBatches(cull(drift, assets, sight()), Infinity);
    expect(drawn()).not.toBe(before);
    expect(drawn()).toBe(assets.get('fern')!.levels[0]!.parts[0].geometry);
  });

  test('of another size are left out', () => {
    drift.worn.set('fern/0', new THREE.BufferAttribute(new Float32Array(8), 4));
    stand(row('near', 0, 0, 10));
    fillBatches(cull(drift, assets, sight()), Infinity);
    expect(drawn()).toBe(assets.get('fern')!.levels[0]!.parts[0].geometry);
  });
});

describe('what is seen of a drift', () => {
  test('gets the level of detail of its distance in its own heights', () => {
    stand(row('near', 0, 0, 10), row('middle', 0, -20, 10), row('far', 0, -60, 10), row('farthest', 0, -400, 10));
    const found = cull(drift, assets, sight());
    expect(found.buckets.map((b) => [b.lod, b.runs.reduce((s, r) => s + r.members.length, 0)]).sort()).toEqual([
      [0, 10],
      [1, 10],
      [2, 10],
    ]);
    expect(found.seen.find((s) => s.plot.cell === 'farthest')).toMatchObject({ far: true, triangles: 10 * FACES[3] });
    expect(found.triangles).toBe(10 * FACES.reduce((a, b) => a + b));
  });

  test('is taken whole far off, but only where most of it is in view', () => {
    // One straight ahead, one of which a corner is in view, beside each other and equally far.
    stand(row('ahead', 0, -400, 100), row('aside', 362, -400, 100), row('behind', 0, 400, 100));
    const found = cull(drift, assets, sight());
    const of = (cell: string) => found.seen.find((s) => s.plot.cell === cell);
    expect(of('ahead')).toMatchObject({ far: true, triangles: 100 * FACES[3] });
    expect(of('aside')!.far).toBe(false);
    expect(of('aside')!.triangles).toBeLessThan(50 * FACES[3]);
    expect(of('aside')!.triangles).toBeGreaterThan(0);
    expect(of('behind')).toBeUndefined();
    expect(fillBatches(found, Infinity)).toBe(of('ahead')!.triangles + of('aside')!.triangles);
  });

  test('larger ones are seen in detail from farther off', () => {
    stand(row('a', 0, -20, 10, 3), row('b', 0, -380, 1));
    expect(cull(drift, assets, sight()).buckets.map((b) => b.lod)).toEqual([0]);
  });

  test('what lies behind the eye is left out, unless its shadow falls into the picture', () => {
    stand(row('behind', 0, 30, 10));
    expect(cull(drift, assets, sight()).seen).toEqual([]);
    expect(cull(drift, assets, sight({ shadows: true })).seen).toEqual([]);
    assets.set('fern', asset(6));
    expect(cull(drift, assets, sight({ shadows: true })).seen).toHaveLength(1);
    stand(row('behind', 0, 200, 10));
    expect(cull(drift, assets, sight({ shadows: true })).seen).toEqual([]);
  });

  test('a level that has not come is stood for by the next one, and asked for once', () => {
    const view = assets.get('fern')!;
    view.levels[0] = view.levels[1] = null;
    view.asked = new Set([2, 3]);
    stand(row('near', 0, 0, 10));
    expect(cull(drift, assets, sight()).buckets.map((b) => b.lod)).toEqual([2]);
    expect([...view.wanted]).toEqual([0]);
    view.asked.add(0);
    view.wanted.clear();
    cull(drift, assets, sight());
    expect([...view.wanted]).toEqual([]);
  });
});

describe('within a budget of triangles', () => {
  beforeEach(() => stand(row('a', 0, 0, 100), row('b', 0, -30, 100), row('c', 0, -90, 100)));

  test('all is drawn if it fits', () => {
    const found = cull(drift, assets, sight());
    expect(shares(found, 1e9)).toEqual([1, 1, 1]);
    expect(fillBatches(found, 1e9)).toBe(found.triangles);
  });

  test.each([0.8, 0.5, 0.2, 0.05])('to %f of all: not more, not much less, and thinner the farther off', (share) => {
    const found = cull(drift, assets, sight());
    const most = share * found.triangles;
    const kept = shares(found, most);
    const order = found.seen
      .map((s, k) => [s.distance, kept[k]])
      .sort((a, b) => a[0] - b[0])
      .map((pair) => pair[1]);
    expect(order).toEqual([...order].sort((a, b) => b - a));
    const drawn = fillBatches(found, most);
    expect(drawn).toBeLessThanOrEqual(most + 3 * FACES[0]);
    expect(drawn).toBeGreaterThan(0.7 * most);
  });

  test('what is left is the beginning of each plot, so that it stays the same while the budget moves', () => {
    const members = (most: number) => {
      fillBatches(cull(drift, assets, sight()), most);
      return new Set(
        (drift.group.children as THREE.InstancedMesh[]).flatMap((mesh) =>
          Array.from({ length: mesh.count }, (_, n) =>
            [12, 14].map((at) => mesh.instanceMatrix.array[n * 16 + at]).join(' '),
          ),
        ),
      );
    };
    const whole = cull(drift, assets, sight()).triangles;
    const little = members(0.2 * whole),
      more = members(0.6 * whole);
    for (const one of little) expect(more.has(one)).toBe(true);
    expect(more.size).toBeGreaterThan(little.size);
  });

  test('building again leaves nothing of before', () => {
    fillBatches(cull(drift, assets, sight()), 1e9);
    const before = total();
    fillBatches(cull(drift, assets, sight()), 1e9);
    expect(total()).toBe(before);
    drift.plots.clear();
    fillBatches(cull(drift, assets, sight()), 1e9);
    expect(drift.group.children).toEqual([]);
  });
});

describe('without a graphics card', () => {
  const listed = (triangles: number[], far = true) =>
    ({
      lods: triangles.map((n) => `lod ${n}`),
      triangles,
      materials: far ? { blade: 'blade', far: 'far.x' } : { blade: 'blade' },
    }) as unknown as Asset;

  test('a card stands only for what has many more triangles', () => {
    expect(forProcessor(listed([472, 84, 16, 8])).lods).toEqual(['lod 472', 'lod 84', 'lod 16']);
    expect(forProcessor(listed([472, 84, 16, 8])).triangles).toEqual([472, 84, 16]);
    for (const kept of [listed([9682, 1942, 694, 12]), listed([364, 120, 48, 12]), listed([480, 96, 24], false)])
      expect(forProcessor(kept)).toBe(kept);
  });
});
