import { describe, expect, test } from 'vitest';
import type { Rule } from '../api/client';
import { defaults } from '../api/defaults';
import { measures, type Measure } from '../api/measures';
import { gateFields, moved, number, readOut, response } from '../ui/gate';
import { figures } from './figures';

const gate = (a: number, b: number, c: number, d: number) => ({
  rise_start: a,
  rise_end: b,
  fall_start: c,
  fall_end: d,
});
const rule = (measure: Measure, ...at: [number, number, number, number]) =>
  ({ ...defaults(measures[measure].model), measure, gate: gate(...at) }) as unknown as Rule;

describe('the trapezoid', () => {
  test.each(figures.gates.map((g) => [Object.values(g.gate).join(' '), g] as const))(
    '%s answers as the core does',
    (_, { gate: at, values, response: wanted }) => {
      values.forEach((value, k) => expect(response(at, value)).toBeCloseTo(wanted[k], 6));
    },
  );

  test('handles give way to each other and stay in order', () => {
    const start = gate(1, 2, 3, 4);
    for (const field of gateFields)
      for (const value of [-5, 0, 1.5, 2.5, 3.5, 9]) {
        const found = moved(start, field, value);
        expect(found[field]).toBe(value);
        const row = gateFields.map((name) => found[name]);
        expect(row).toEqual([...row].sort((a, b) => a - b));
      }
    expect(start).toEqual(gate(1, 2, 3, 4));
  });
});

describe('read out', () => {
  test.each([
    ['slope', [0, 0, 35, 50], 90, 'stands on slopes up to 35°, none past 50°'],
    ['slope', [4, 12, 90, 90], 90, 'stands on slopes from 12°, none below 4°'],
    ['slope', [4, 12, 29, 52], 90, 'stands on slopes of 12° to 29°, none outside 4° to 52°'],
    ['slope', [0, 0, 90, 90], 90, 'stands at any slope'],
    ['near', [0, 0, 0.6, 0.6], 10, 'stands on distances from pieces up to 0.6 m'],
    ['shelter', [0.05, 0.3, 1, 1], 1, 'stands on shelter from 30 %, none below 5 %'],
  ] as const)('%s %j', (measure, at, end, wanted) => {
    expect(readOut(rule(measure, ...(at as unknown as [number, number, number, number])), 'stands', [0, end])).toBe(
      wanted,
    );
  });

  test('numbers have their unit', () => {
    expect([number(12.4, '°'), number(0.256, 'm'), number(0.256, ''), number(5.5, 'h')]).toEqual([
      '12°',
      '0.26 m',
      '26 %',
      '5.5 h',
    ]);
  });
});

describe('every measure', () => {
  test.each(Object.entries(measures))(
    '%s starts with a gate in order and settings the core declares',
    (_, { start: at, model, says, noun }) => {
      expect([...at]).toEqual([...at].sort((a, b) => a - b));
      expect(Object.keys(defaults(model))).toContain('strength');
      expect(says.length).toBeGreaterThan(5);
      expect(noun).not.toBe('');
    },
  );
});
