import { describe, expect, test } from 'vitest';
import * as THREE from 'three';
import { countInto, densityView } from '../plate/density';

/** Things on a grid of some spacing over a part of a sheet. */
function standing(left: number, right: number, depth: number, apart: number): Float32Array {
  const out: number[] = [];
  for (let x = left + apart / 2; x < right; x += apart)
    for (let z = -depth / 2 + apart / 2; z < depth / 2; z += apart) out.push(x, 0, z);
  return Float32Array.from(out);
}

describe('density', () => {
  test('it says how many stand on a square metre', () => {
    // Eight by eight a square metre.
    expect(countInto([standing(-10, 10, 20, 0.125)], [20, 20]).full).toBeCloseTo(64, 0);
    expect(countInto([standing(-10, 0, 20, 0.25)], [20, 20]).full).toBeCloseTo(16, 0);
  });

  test('where nothing stands there are no dots, on no side of a rim', () => {
    countInto([standing(-10, 0, 20, 0.2)], [20, 20]);
    const texture = densityView.uniforms.uDensity.value as THREE.DataTexture;
    const { data, width, height } = texture.image as { data: Uint8Array; width: number; height: number };
    for (let row = 0; row < height; row++) {
      expect(data[row * width + 2]).toBeGreaterThan(200);
      expect(data[row * width + width - 1]).toBe(0);
    }
  });

  test('nothing at all is no dots', () => {
    expect(countInto([], [20, 20]).full).toBe(0);
  });
});
