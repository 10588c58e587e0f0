import type { PlanOf } from '../api/client';
import { fresh } from '../api/defaults';
import { isHand } from '../kinds/hand/names';
import type { Item } from '../state/site';

type P3 = [number, number, number];

/** A first name that is not taken yet. */
export function freeName(items: Record<string, Item>, wanted: string): string {
  const taken = new Set(Object.values(items).map((i) => i.plan.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  return name;
}

/** One place above the highest of a kind. */
export const top = (items: Record<string, Item>, kind: 'patina' | 'decal' | 'station' | 'spell' | 'beads') =>
  Math.max(
    0,
    ...Object.values(items).flatMap(({ plan }) => (plan.kind === kind && 'order' in plan ? [plan.order ?? 0] : [])),
  ) + 1;

/** The number after the last hand edit. */
export const nextOrder = (items: Record<string, Item>) =>
  Math.max(0, ...Object.values(items).flatMap((i) => (isHand(i.plan) ? [i.plan.order] : []))) + 1;

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
  aspect: number,
): PlanOf<'decal'> {
  return fresh('decal', {
    name: freeName(items, title.toLowerCase()),
    picture,
    position,
    facing,
    height: Number((1 / aspect).toFixed(4)),
    depth: 0.4,
    receivers: [owner],
    only: true,
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
