import * as THREE from 'three';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import type { Hit } from '../plate/Picker';
import type { PlateScene } from '../plate/PlateScene';
import { bytes } from './figures';

const { fetchPart } = vi.hoisted(() => ({ fetchPart: vi.fn() }));
vi.mock('../api/parts', () => ({ fetchPart }));
const { Ghost } = await import('../plate/Ghost');

const hit = (x: number, y: number, z: number): Hit => ({
  owner: 'ground',
  surface: 'ground/ground',
  point: new THREE.Vector3(x, y, z),
  normal: new THREE.Vector3(0, 1, 0),
});
const arrived = () => new Promise((done) => setTimeout(done, 0));

let scene: {
  stage: { tools: THREE.Group };
  frames: { draw: () => void };
  assets: { get: (asset: string) => { lods: string[] } | undefined };
};
let ghost: InstanceType<typeof Ghost>;
const seen = () => scene.stage.tools.children[0] as THREE.Mesh;

beforeEach(() => {
  fetchPart.mockReset().mockImplementation(async () => bytes('ground.bin'));
  scene = {
    stage: { tools: new THREE.Group() },
    frames: { draw: vi.fn() },
    assets: { get: (asset) => (asset === 'unknown' ? undefined : { lods: [`/shape/${asset}`] }) },
  };
  ghost = new Ghost(scene as unknown as PlateScene);
});

describe('what is about to be set down', () => {
  test('is seen where the pointer is, turned and sized, once its shape has come', async () => {
    ghost.show('crate', hit(1, 2, 3), 90, 1.5);
    expect(seen().visible).toBe(false);
    await arrived();
    expect(seen().visible).toBe(true);
    expect(seen().position.toArray()).toEqual([1, 2, 3]);
    expect(seen().rotation.y).toBeCloseTo(Math.PI / 2);
    expect(seen().scale.toArray()).toEqual([1.5, 1.5, 1.5]);
    expect(scene.frames.draw).toHaveBeenCalled();
  });

  test('comes at the place the pointer has moved to meanwhile', async () => {
    ghost.show('crate', hit(1, 0, 0), 0, 1);
    ghost.show('crate', hit(5, 0, 0), 0, 1);
    await arrived();
    expect(seen().position.x).toBe(5);
    expect(fetchPart).toHaveBeenCalledTimes(1);
  });

  test('is asked for again after a lost connection', async () => {
    fetchPart.mockRejectedValueOnce(new TypeError('fetch failed'));
    ghost.show('crate', hit(1, 0, 0), 0, 1);
    await arrived();
    expect(seen().visible).toBe(false);
    ghost.show('crate', hit(2, 0, 0), 0, 1);
    await arrived();
    expect(seen().visible).toBe(true);
    expect(fetchPart).toHaveBeenCalledTimes(2);
  });

  test('is not seen off all surfaces, with nothing in hand, or without a shape', async () => {
    ghost.show('crate', hit(0, 0, 0), 0, 1);
    await arrived();
    ghost.show('crate', null, 0, 1);
    expect(seen().visible).toBe(false);
    ghost.show('crate', hit(0, 0, 0), 0, 1);
    expect(seen().visible).toBe(true);
    ghost.show(undefined, hit(0, 0, 0), 0, 1);
    expect(seen().visible).toBe(false);
    ghost.show('unknown', hit(0, 0, 0), 0, 1);
    await arrived();
    expect(seen().visible).toBe(false);
  });

  test('is gone when the tool is put down, and what comes after that changes nothing', async () => {
    ghost.show('crate', hit(0, 0, 0), 0, 1);
    ghost.dispose();
    const drawn = vi.mocked(scene.frames.draw).mock.calls.length;
    await arrived();
    expect(scene.stage.tools.children).toEqual([]);
    expect(vi.mocked(scene.frames.draw).mock.calls.length).toBe(drawn);
  });
});
