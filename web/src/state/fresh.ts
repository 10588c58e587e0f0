import type { Kind } from '../api/client';
import { isHand } from './hand';
import type { Item } from './site';

/** A first name that is not taken yet. */
export function freeName(items: Record<string, Item>, wanted: string): string {
  const taken = new Set(Object.values(items).map((i) => i.plan.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  return name;
}

/** One place above the highest of a kind. */
export const top = (items: Record<string, Item>, kind: Kind) =>
  Math.max(
    0,
    ...Object.values(items).flatMap(({ plan }) => (plan.kind === kind && 'order' in plan ? [plan.order ?? 0] : [])),
  ) + 1;

/** The number after the last hand edit. */
export const nextOrder = (items: Record<string, Item>) =>
  Math.max(0, ...Object.values(items).flatMap((i) => (isHand(i.plan) ? [i.plan.order] : []))) + 1;
