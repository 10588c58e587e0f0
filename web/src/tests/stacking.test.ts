import { describe, expect, it } from 'vitest';
import type { ItemPlan } from '../api/client';
import { restacked } from '../bench/stacking';

const stack = (...orders: number[]) =>
  orders.map((order, k) => ({ key: 'abcdef'[k], plan: { kind: 'patina', order } as unknown as ItemPlan }));

/** The keys from the top down, after some edits. */
const told = (list: ReturnType<typeof stack>, edits: ReturnType<typeof stack>) =>
  list
    .map((one) => edits.find((e) => e.key === one.key) ?? one)
    .sort((a, b) => (b.plan as { order: number }).order - (a.plan as { order: number }).order)
    .map((one) => one.key)
    .join('');

describe('stacking', () => {
  it('puts an item anywhere by changing it alone', () => {
    const list = stack(9, 7, 4, 1);
    for (const [from, to, expected] of [
      [0, 3, 'bcda'],
      [3, 0, 'dabc'],
      [2, 1, 'acbd'],
      [0, 2, 'bcad'],
    ] as const) {
      const edits = restacked(list, from, to);
      expect(edits).toHaveLength(1);
      expect(told(list, edits as never)).toBe(expected);
    }
  });

  it('numbers the stack anew where orders leave no room', () => {
    const list = stack(2, 2, 2, 2);
    expect(told(list, restacked(list, 3, 1) as never)).toBe('adbc');
  });

  it('changes nothing for no move, or one out of the stack', () => {
    const list = stack(3, 2, 1);
    expect(restacked(list, 1, 1)).toEqual([]);
    expect(restacked(list, 0, -1)).toEqual([]);
    expect(restacked(list, 2, 3)).toEqual([]);
  });
});
