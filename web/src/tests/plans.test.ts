import openapi from '../../openapi.json';
import * as THREE from 'three';
import { describe, expect, test } from 'vitest';
import { sentence, type Kind } from '../api/client';
import { defaults, fresh } from '../api/defaults';
import { setting } from '../api/settings';
import { alike } from '../ui/memoControl';
import { freshDecal } from '../kinds/decal/setDown';
import { freshStation } from '../kinds/station/fresh';
import { freeName, nextOrder } from '../state/fresh';
import { kinds as views, steps } from '../kinds';
import { itemsOf, type Item } from '../state/site';

const item = (plan: unknown, key = 'k'): Record<string, Item> => ({
  [key]: { key, revision: 1, plan: plan as Item['plan'] },
});
/** All that the core knows: each plan's schema says which it is. */
const kinds = Object.values(
  openapi.components.schemas as Record<string, { properties?: { kind?: { const?: string } } }>,
)
  .flatMap(({ properties }) => properties?.kind?.const ?? [])
  .filter((kind, at, all) => all.indexOf(kind) === at) as Kind[];

describe('a fresh plan', () => {
  test.each(kinds)('%s has its kind, and shares nothing with the next', (kind) => {
    const one = fresh(kind, {}) as object,
      other = fresh(kind, {}) as object;
    expect(one).toMatchObject({ kind });
    expect(one).toEqual(other);
    for (const [name, value] of Object.entries(one))
      if (value && typeof value === 'object') expect((other as Record<string, unknown>)[name]).not.toBe(value);
  });

  test('defaults are filled in to the last level', () => {
    const drift = defaults('DriftPlan') as { variety: Record<string, number>; arrangement: object; rules: unknown[] };
    expect(drift.variety).toMatchObject({ size_min: expect.any(Number), turn: expect.any(Number) });
    expect(drift.rules).toEqual([]);
    expect(defaults('no such model')).toEqual({});
  });

  test('a new drift or patina shows something at once and takes a free name', () => {
    const items = item(fresh('drift', { name: 'new drift' }));
    expect(views.drift.fresh!(items)).toMatchObject({
      name: 'new drift 2',
      assets: [{ asset: 'grass_mid' }],
      visible: true,
    });
    expect(views.patina.fresh!(items)).toMatchObject({ name: 'new patina', order: 1 });
    expect(views.light.fresh).toBeUndefined();
  });
});

describe('kinds at the bench', () => {
  test('each kind the core knows has a folder, and each step a key of its own', () => {
    expect(Object.keys(views).sort()).toEqual([...kinds].sort());
    expect(new Set(steps.map((s) => s.key)).size).toBe(steps.length);
    expect(steps.map((s) => s.step)).toEqual([
      'Ground',
      'Pieces',
      'Drifts',
      'Patinas',
      'Decals',
      'Water',
      'Air',
      'Proofs',
    ]);
  });

  test('what is listed in a step can be chosen, drawn small and opened', () => {
    for (const kind of steps.flatMap((step) => (step.kind ? [step.kind, ...step.also] : []))) {
      const view = views[kind];
      expect(view.sheet, kind).toBeDefined();
      if (!view.single) expect((view.swatch || view.mark) && (view.fresh || view.offer), kind).toBeTruthy();
    }
  });
});

describe('names and orders', () => {
  test('a taken name is numbered on', () => {
    const items = {
      ...item(fresh('piece', { name: 'crate' }), 'a'),
      ...item(fresh('piece', { name: 'crate 2' }), 'b'),
    };
    expect([freeName(items, 'crate'), freeName(items, 'wall')]).toEqual(['crate 3', 'wall']);
  });

  test('a new decal lies on top, a new station last', () => {
    const items = {
      ...item(fresh('decal', { name: 'leak', order: 4 }), 'a'),
      ...item(fresh('station', { name: 'one', order: 2 }), 'b'),
    };
    const hit = {
      owner: 'wall',
      surface: 'wall/brick',
      point: new THREE.Vector3(),
      normal: new THREE.Vector3(0, 0, 1),
    };
    const landing = { thing: { id: 'leak', title: 'Leak stain' }, hit, turn: 0, size: 1 };
    expect(freshDecal(items, landing, 0.75)).toMatchObject({
      order: 5,
      receivers: ['wall'],
      only: true,
      width: 1,
      height: 1.3333,
      name: 'leak stain',
    });
    expect(freshStation(items, [0, 1, 2], [0, 0, 0], 35)).toMatchObject({ order: 3, name: 'station 3', lens: 35 });
  });

  test('hand work counts on over all its kinds', () => {
    const items = {
      ...item(fresh('touch', { name: 't', order: 3 }), 'a'),
      ...item(fresh('edit', { name: 'e', order: 7 }), 'b'),
      ...item(fresh('patina', { name: 'p', order: 30 }), 'c'),
    };
    expect(nextOrder(items)).toBe(8);
    expect(nextOrder({})).toBe(1);
    expect(itemsOf(items, 'touch').map((i) => i.key)).toEqual(['a']);
  });
});

describe('settings', () => {
  test.each([
    ['DriftPlan', 'spacing', 'm'],
    ['DriftPlan', 'density', 'per m²'],
    ['Variety', 'lean', '°'],
    ['StationPlan', 'lens', 'mm'],
  ])('%s.%s is in %s, with a range and a sentence of help', (model, field, unit) => {
    const found = setting(model, field);
    expect(found.unit).toBe(unit);
    expect(found.min).toBeLessThan(found.max);
    expect(found.step).toBeGreaterThan(0);
    expect(found.help.length).toBeGreaterThan(10);
  });

  test('one that is not declared has no bounds', () => {
    expect(setting('DriftPlan', 'nothing')).toMatchObject({ min: -Infinity, max: Infinity, unit: '' });
  });
});

describe('what an answer says', () => {
  test.each([
    [{ detail: 'Choose another one.' }, 'Choose another one.'],
    [{ detail: [{ loc: ['x'] }] }, '[{"loc":["x"]}]'],
    [new TypeError('fetch failed'), 'The server cannot be reached. Your work is kept here and sent when it is back.'],
    [null, 'Something unforeseen went wrong. Nothing was changed; try again.'],
  ])('%j', (error, wanted) => expect(sentence(error)).toBe(wanted));
});

describe('a steady control is drawn again', () => {
  test.each([
    ['not for a new callback', () => 1, () => 2, true],
    ['not for a new object of equal values', { min: 0, max: 1 }, { min: 0, max: 1 }, true],
    ['not for a list of the same things', ['a', 'b'], ['a', 'b'], true],
    ['for another number', 1, 2, false],
    ['for a longer list', ['a'], ['a', 'b'], false],
    ['for another value within', { min: 0, max: 1 }, { min: 0, max: 2 }, false],
    ['for a callback that is gone', () => 1, undefined, false],
    ['for null in place of an object', { a: 1 }, null, false],
    ['for a list in place of an object', {}, [], false],
  ])('%s', (_, before, now, same) => expect(alike(before, now)).toBe(same));
});
