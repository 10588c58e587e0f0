import { describe, expect, it } from 'vitest';
import type { ItemPlan } from '../api/client';
import { fresh } from '../api/defaults';
import {
  between,
  changedSpell,
  changedWeather,
  later,
  shown,
  spellsOf,
  stateOf,
  weatherOf,
} from '../kinds/spell/spells';
import type { Item } from '../state/site';

const dry = fresh('spell', { name: 'dry', order: 2, wetness: 0, wind_from: 350, season: 6 });
const wet = fresh('spell', { name: 'wet', order: 1, wetness: 0.8, wind_from: 20, season: 11 });
const item = (key: string, plan: ItemPlan): Item => ({ key, plan, revision: 1 });
const site = (spell = 'a'): Record<string, Item> => ({
  a: item('a', dry),
  b: item('b', wet),
  weather: item('weather', fresh('weather', { ...stateOf(dry), spell, note: 'kept' })),
});

describe('spells', () => {
  it('stand in their order', () => {
    expect(spellsOf(site()).map(({ key }) => key)).toEqual(['b', 'a']);
  });

  it('are shown by becoming the weather, in one edit', () => {
    const [edit, ...more] = shown(site(), 'b', wet);
    expect(more).toEqual([]);
    expect(edit.plan).toMatchObject({ kind: 'weather', wetness: 0.8, spell: 'b', note: 'kept' });
    expect(edit.plan).not.toHaveProperty('order');
  });

  it('go along with the weather they are, and only with that', () => {
    const raining = { ...weatherOf(site()), wetness: 0.5 };
    const edits = changedWeather(site(), raining);
    expect(edits.map(({ key }) => key)).toEqual(['weather', 'a']);
    expect(edits[1].plan).toMatchObject({ kind: 'spell', name: 'dry', wetness: 0.5, order: 2 });
    expect(changedWeather(site(''), { ...raining, spell: '' })).toHaveLength(1);
    expect(changedWeather(site('gone'), { ...raining, spell: 'gone' })).toHaveLength(1);
  });

  it('dry, soak away and thaw as hours go by, and never more than there was', () => {
    const rained = { ...stateOf(wet), rain: 8, standing: 3, snow: 5, frost: 1 };
    expect(later(rained, 0)).toEqual(rained);
    const steps = [1, 4, 12, 48].map((hours) => later(rained, hours));
    for (const [before, after] of [[rained, steps[0]], ...steps.slice(1).map((s, k) => [steps[k], s])]) {
      expect(after.dried).toBeGreaterThanOrEqual(before.dried);
      expect(after.standing).toBeLessThanOrEqual(before.standing);
      expect(after.melted).toBeGreaterThanOrEqual(before.melted);
    }
    expect(steps[0]).toMatchObject({ rain: 0, wetness: 0.8 });
    expect(steps[3]).toMatchObject({ dried: 1, standing: 0, frost: 0, melted: 5 });
  });

  it('change the weather only while they show', () => {
    expect(changedSpell(site(), 'a', { ...dry, wetness: 1 })).toHaveLength(2);
    expect(changedSpell(site(), 'b', { ...wet, wetness: 1 })).toHaveLength(1);
  });

  it('have others between them, the shorter way round the compass and the year', () => {
    const half = between(stateOf(dry), stateOf(wet), 0.5);
    expect(half.wetness).toBeCloseTo(0.4);
    expect(half.wind_from).toBeCloseTo(5);
    expect(half.season).toBeCloseTo(8.5);
    const late = between({ ...stateOf(wet), season: 11 }, { ...stateOf(dry), season: 1 }, 0.75);
    expect(late.season).toBeCloseTo(0.5);
    expect(between(stateOf(dry), stateOf(wet), 0)).toEqual(stateOf(dry));
    const there = between(stateOf(dry), stateOf(wet), 1);
    for (const [name, value] of Object.entries(stateOf(wet)))
      expect(there[name as keyof typeof there]).toBeCloseTo(value);
  });
});
