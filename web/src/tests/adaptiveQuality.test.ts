import { describe, expect, test } from 'vitest';
import { AdaptiveQuality } from '../plate/adaptiveQuality';

/** A card that takes so long for a triangle's share and for a pixel's share of the full picture. */
function driven(triangles: number, pixels: number, frames = 60) {
  const quality = new AdaptiveQuality();
  const took: number[] = [];
  for (let n = 0; n < frames; n++) {
    const ms = triangles * quality.detail + pixels * quality.pixels ** 2;
    took.push(ms);
    quality.frame(ms);
  }
  return { quality, took };
}

describe('what a card is given to draw', () => {
  test('a quick one gets more detail, up to a bound, and all pixels', () => {
    const { quality } = driven(1, 2);
    expect(quality.detail).toBe(3);
    expect(quality.pixels).toBe(1);
  });

  test('one slow with triangles draws less detail and keeps its pixels', () => {
    const { quality, took } = driven(60, 10);
    expect(quality.pixels).toBe(1);
    expect(quality.detail).toBeGreaterThanOrEqual(0.4);
    expect(took.at(-1)).toBeLessThanOrEqual(60);
  });

  test('one slow with pixels has fewer of them', () => {
    const { quality, took } = driven(5, 110);
    expect(quality.detail).toBe(0.4);
    expect(quality.pixels).toBeLessThan(0.8);
    expect(took.at(-1)).toBeLessThanOrEqual(60);
  });

  test('one that is stuck goes down at once', () => {
    const { took } = driven(100, 700, 3);
    expect(took[1]).toBeLessThan(0.3 * took[0]);
  });

  test('it settles: between slow and quick nothing changes', () => {
    const quality = new AdaptiveQuality();
    const before = { ...quality };
    for (const ms of [13, 30, 59]) quality.frame(ms);
    expect({ ...quality }).toEqual(before);
  });

  test('pixels come back before detail', () => {
    const { quality } = driven(5, 110);
    const { detail, pixels } = quality;
    quality.frame(5);
    expect(quality.pixels).toBeGreaterThan(pixels);
    expect(quality.detail).toBe(detail);
  });
});
