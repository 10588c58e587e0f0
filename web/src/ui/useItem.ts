import type { ItemPlan, Kind, PlanOf } from '../api/client';
import { useBench } from '../state/bench';
import { usePlan, useSite } from '../state/site';

/** An item's plan with the two ways to change it: while dragging, and for good. */
export function useItem<K extends Kind>(key: string, kind: K) {
  const plan = usePlan(key, kind);
  const commit = useSite((s) => s.commit);
  const draft = useSite((s) => s.draft);
  const set = useBench((s) => s.set);
  return {
    plan,
    bench: set,
    change: (next: PlanOf<K>) => draft(key, next as ItemPlan),
    /** Back to what is saved, where a change was only looked at. */
    giveUp: () => draft(key, null),
    keep: (label: string, next: PlanOf<K>) => commit(label, [{ key, plan: next as ItemPlan }]),
    remove: () => plan && commit(`delete ${plan.name}`, [{ key, plan: null }]),
  };
}
