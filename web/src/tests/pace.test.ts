import { describe, expect, test } from 'vitest';
import { Pace } from '../plate/pace';

/** A card that takes so long for a triangle's share and for a pixel's share of the full picture. */
function driven(triangles: number, pixels: number, frames = 60) {
  const pace = new Pace();
  const took: number[] = [];
  for (let n = 0; n < frames; n++) {
    const ms = triangles * pace.detail + pixels * pace.pixels ** 2;
    took.push(ms);
    pace.frame(ms);
  }
  return { pace, took };
}

describe('what a card is given to draw', () => {
  test('a quick one gets more detail, up to a bound, and all pixels', () => {
    const { pace } = driven(1, 2);
    expect(pace.detail).toBe(3);
    expect(pace.pixels).toBe(1);
  });

  test('one slow with triangles draws less detail and keeps its pixels', () => {
    const { pace, took } = driven(60, 10);
    expect(pace.pixels).toBe(1);
    expect(pace.detail).toBeGreaterThanOrEqual(0.4);
    expect(took.at(-1)).toBeLessThanOrEqual(60);
  });

  test('one slow with pixels has fewer of them', () => {
    const { pace, took } = driven(5, 110);
    expect(pace.detail).toBe(0.4);
    expect(pace.pixels).toBeLessThan(0.8);
    expect(took.at(-1)).toBeLessThanOrEqual(60);
  });

  test('one that is stuck goes down at once', () => {
    const { took } = driven(100, 700, 3);
    expect(took[1]).toBeLessThan(0.3 * took[0]);
  });

  test('it settles: between slow and quick nothing changes', () => {
    const pace = new Pace();
    const before = { ...pace };
    for (const ms of [13, 30, 59]) pace.frame(ms);
    expect({ ...pace }).toEqual(before);
  });

  test('pixels come back before detail', () => {
    const { pace } = driven(5, 110);
    const { detail, pixels } = pace;
    pace.frame(5);
    expect(pace.pixels).toBeGreaterThan(pixels);
    expect(pace.detail).toBe(detail);
  });
});
