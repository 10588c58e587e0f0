import { itemsOf, type Edit, type Item } from '../../state/site';
import type { PlanOf } from '../../api/client';

type Station = Item<PlanOf<'station'>>;

/** The stations of a site as their row has them. */
export const inOrder = (items: Record<string, Item>): Station[] =>
  itemsOf(items, 'station').sort((a, b) => a.plan.order - b.plan.order);

/** What changes when one of a row is moved to another place in it: those whose number is another one then. */
export function movedTo(list: Station[], from: number, to: number): Edit[] {
  const next = [...list];
  next.splice(Math.max(0, Math.min(list.length - 1, to)), 0, ...next.splice(from, 1));
  return next.flatMap(({ key, plan }, k) => (plan.order === k + 1 ? [] : [{ key, plan: { ...plan, order: k + 1 } }]));
}
