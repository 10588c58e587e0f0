import type { PlanOf } from '../../api/client';
import { fresh } from '../../api/defaults';
import { freeName, top } from '../../state/fresh';
import type { Item } from '../../state/site';

type P3 = [number, number, number];

/** A station where the eye is, after the last. */
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
