import { describe, expect, test } from 'vitest';
import type { PlanOf } from '../api/client';
import { dialValue, turned, type Dial } from '../kinds/patina/dials';

const plan = {
  kind: 'patina',
  amount: 0.5,
  finish: { thickness: 4 },
  rules: [
    { measure: 'slope', gate: { fall_start: 10, fall_end: 20 } },
    { measure: 'sun', gate: { fall_start: 3, fall_end: 7.5 } },
  ],
} as unknown as PlanOf<'patina'>;
const sun: Dial = {
  title: 'bears sun for',
  says: '',
  unit: 'h',
  low: 0,
  high: 12,
  sets: [
    { at: 'sun:gate.fall_start', times: 1, plus: 0 },
    { at: 'sun:gate.fall_end', times: 1.5, plus: 3 },
  ],
};

describe('dials', () => {
  test('stand at what the plan says, and turn all numbers they are made of', () => {
    expect(dialValue(plan, sun)).toBe(3);
    const next = turned(plan, sun, 5);
    expect(dialValue(next, sun)).toBe(5);
    expect(next.rules[1].gate.fall_end).toBe(10.5);
    expect(next.rules[0].gate.fall_start).toBe(10);
    expect(plan.rules[1].gate.fall_start).toBe(3);
  });

  test('of a finish', () => {
    const thick = { ...sun, sets: [{ at: 'finish.thickness', times: 1, plus: 0 }] };
    expect(dialValue(turned(plan, thick, 9), thick)).toBe(9);
  });

  test('are gone where their rule is gone', () => {
    expect(dialValue({ ...plan, rules: [plan.rules[0]] }, sun)).toBeNull();
    expect(turned({ ...plan, rules: [plan.rules[0]] }, sun, 5).rules).toEqual([plan.rules[0]]);
  });
});
