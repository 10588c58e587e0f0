import type { ItemPlan, Kind, PlanOf } from '../api/client';
import { fresh } from '../api/defaults';
import { itemsOf, type Item } from '../state/site';

type P3 = [number, number, number];

/** A first name that is not taken yet. */
export function freeName(items: Record<string, Item>, wanted: string): string {
  const taken = new Set(Object.values(items).map((i) => i.plan.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  return name;
}

const top = (items: Record<string, Item>, kind: 'patina' | 'decal' | 'station') =>
  Math.max(
    0,
    ...[...itemsOf(items, 'patina'), ...itemsOf(items, 'decal'), ...itemsOf(items, 'station')]
      .filter((i) => i.plan.kind === kind)
      .map((i) => i.plan.order),
  ) + 1;

/** The number after the last hand edit. */
export const nextOrder = (items: Record<string, Item>) =>
  Math.max(
    0,
    ...Object.values(items).flatMap((i) =>
      ['touch', 'placed', 'line', 'edit'].includes(i.plan.kind) ? [(i.plan as PlanOf<'touch'>).order] : [],
    ),
  ) + 1;

export function freshPiece(
  items: Record<string, Item>,
  asset: string,
  title: string,
  position: P3,
  turn: number,
  size: number,
  ground_at: number | null,
): PlanOf<'piece'> {
  return fresh('piece', { name: freeName(items, title.toLowerCase()), asset, position, turn, size, ground_at });
}

export function freshDecal(
  items: Record<string, Item>,
  picture: string,
  title: string,
  position: P3,
  facing: P3,
  owner: string,
): PlanOf<'decal'> {
  return fresh('decal', {
    name: freeName(items, title.toLowerCase()),
    picture,
    position,
    facing,
    depth: 0.4,
    receivers: [owner],
    order: top(items, 'decal'),
  });
}

export function freshStation(
  items: Record<string, Item>,
  position: number[],
  target: number[],
  lens: number,
): PlanOf<'station'> {
  const order = top(items, 'station');
  return fresh('station', {
    name: freeName(items, `station ${order}`),
    position: position as P3,
    target: target as P3,
    lens,
    order,
  });
}

const open = { active: true, strength: 1 };

/** A new item with settings that show something at once. */
export function freshPlan(kind: Kind, items: Record<string, Item>): ItemPlan | null {
  if (kind === 'drift') {
    const plan = fresh('drift', {
      name: freeName(items, 'new drift'),
      assets: [{ asset: 'grass_mid', weight: 1 }],
      surfaces: ['ground/ground'],
      density: 4,
      spacing: 0.25,
      headroom: 0.3,
      rules: [{ ...open, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 30, fall_end: 45 } }],
      keep_outs: [{ of: 'pieces', clearance: 0.02, reach: 6 }],
    });
    return { ...plan, variety: { ...plan.variety, size_min: 0.7, size_max: 1.3, lean: 8, follow: 0.3, tint: 0.25 } };
  }
  if (kind === 'patina')
    return fresh('patina', {
      name: freeName(items, 'new patina'),
      order: top(items, 'patina'),
      rules: [
        { ...open, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 55, fall_end: 95 } },
        {
          ...open,
          measure: 'noise',
          gate: { rise_start: 0.32, rise_end: 0.78, fall_start: 1, fall_end: 1 },
          size: 0.7,
          detail: 6,
          seed: 1,
        },
      ],
    });
  return null;
}
