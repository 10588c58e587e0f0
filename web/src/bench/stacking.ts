import type { ItemPlan } from '../api/client';

interface Stacked {
  key: string;
  plan: ItemPlan;
}

const orderOf = (plan: ItemPlan) => ('order' in plan ? (plan.order ?? 0) : 0);

/** What changes when the item at one place of a stack (topmost first) is put to another: it alone, if there is room. */
export function restacked(list: Stacked[], from: number, to: number): Stacked[] {
  if (from === to || !list[from] || to < 0 || to >= list.length) return [];
  const after = [...list];
  after.splice(to, 0, ...after.splice(from, 1));
  const [above, below] = [after[to - 1], after[to + 1]].map((one) => one && orderOf(one.plan));
  const order = above === undefined ? below! + 1 : below === undefined ? above - 1 : (above + below) / 2;
  const put = ({ key, plan }: Stacked, next: number) => ({ key, plan: { ...plan, order: next } as ItemPlan });
  if ((above === undefined || order < above) && (below === undefined || order > below)) return [put(after[to], order)];
  return after.flatMap((one, k) => {
    const next = after.length - k;
    return orderOf(one.plan) === next ? [] : [put(one, next)];
  });
}
