import { describe, expect, test } from 'vitest';
import { mapOf } from '../plate/waterLight';

/** A level square of water, a vertex every `step` metres. */
function square(x: number, z: number, size: number, level: number, step = 0.125) {
  const found: number[] = [];
  for (let a = 0; a <= size; a += step) for (let b = 0; b <= size; b += step) found.push(x + a, level, z + b);
  return new Float32Array(found);
}

describe('the map of waters', () => {
  test('says level, number and strength where there is water, and nothing beside it', () => {
    const { values, width, height, box } = mapOf([
      { positions: square(-4, 2, 3, -1.5), light: 0.5 },
      { positions: square(2, -3, 2, 0.25), light: 2 },
    ]);
    const at = (x: number, z: number) => {
      const column = Math.floor(((x - box[0]) / box[2]) * width);
      const row = Math.floor(((z - box[1]) / box[3]) * height);
      return [...values.slice((row * width + column) * 4, (row * width + column) * 4 + 4)];
    };
    expect(at(-2.5, 3.5)).toEqual([-1.5, 0, 0.5, 1]);
    expect(at(3, -2)).toEqual([0.25, 1, 2, 1]);
    expect(at(0, 0)).toEqual([0, 0, 0, 0]);
  });

  test('has no holes within a sheet, however large it is', () => {
    for (const size of [2, 40]) {
      const { values, width, height } = mapOf([{ positions: square(0, 0, size, 0.5), light: 1 }]);
      let dry = 0;
      for (let k = 3; k < values.length; k += 4) dry += values[k] ? 0 : 1;
      expect(dry / (width * height)).toBeLessThan(0.02);
    }
  });
});
