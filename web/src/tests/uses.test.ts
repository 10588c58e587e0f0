import { describe, expect, test } from 'vitest';
import { amountOn, exchanged, laidOn, stackLaid, type Patina } from '../kinds/patina/uses';

const patina = (name: string, uses: Record<string, number>) =>
  ({
    kind: 'patina',
    name,
    uses: Object.entries(uses).map(([surface, amount]) => ({ surface, amount })),
  }) as unknown as Patina;
const moss = { key: 'moss', plan: patina('moss', { 'wall/stone': 0.5, 'steps/stone': 1 }) };
const sand = { key: 'sand', plan: patina('sand', { 'steps/stone': 0.2 }) };

describe('what lies on what', () => {
  test('is laid, turned and taken off', () => {
    expect(amountOn(laidOn(moss.plan, 'roof/tin', 1), 'roof/tin')).toBe(1);
    expect(amountOn(laidOn(moss.plan, 'wall/stone', 0.9), 'wall/stone')).toBe(0.9);
    expect(amountOn(laidOn(moss.plan, 'wall/stone', null), 'wall/stone')).toBeUndefined();
    expect(moss.plan.uses).toHaveLength(2);
  });

  test('an exchange moves surfaces with their amounts; what lies there already keeps its own', () => {
    const [from, to] = exchanged(moss, sand, ['wall/stone', 'steps/stone']);
    expect(from.plan.uses).toEqual([]);
    expect(amountOn(to.plan, 'wall/stone')).toBe(0.5);
    expect(amountOn(to.plan, 'steps/stone')).toBe(0.2);
  });

  test('an exchange on some surfaces leaves the others', () => {
    const [from, to] = exchanged(moss, sand, ['wall/stone']);
    expect(from.plan.uses.map((use) => use.surface)).toEqual(['steps/stone']);
    expect(to.plan.uses).toHaveLength(2);
  });

  test('a stack is copied whole, and only what changes is changed', () => {
    const edits = stackLaid([moss, sand], 'steps/stone', 'wall/stone');
    expect(edits.map((edit) => [edit.key, amountOn(edit.plan, 'wall/stone')])).toEqual([
      ['moss', 1],
      ['sand', 0.2],
    ]);
    expect(stackLaid([moss, sand], 'wall/stone', 'wall/stone')).toEqual([]);
    const [gone] = stackLaid([sand], 'wall/stone', 'steps/stone');
    expect(amountOn(gone.plan, 'steps/stone')).toBeUndefined();
  });
});
