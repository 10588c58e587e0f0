import type { PlanOf } from '../../api/client';
import { fresh } from '../../api/defaults';
import type { Picked } from '../../state/bench';
import { nextOrder } from '../../state/fresh';
import { newKey, useSite } from '../../state/site';

/** A change to the picked instances, as one undoable step. */
export function changePicked(picked: Picked, label: string, change: Partial<PlanOf<'edit'>>, key = newKey('edit')) {
  const { items, commit } = useSite.getState();
  commit(label, [{ key, plan: editPlan(picked, change, nextOrder(items)) }]);
}

export function editPlan(picked: Picked, change: Partial<PlanOf<'edit'>>, order: number): PlanOf<'edit'> {
  const count = picked.identities.length;
  const name = { change: 'changed', remove: 'taken away', pin: 'pinned' }[change.action ?? 'change'];
  return fresh('edit', {
    name: `${count} ${name}`,
    target: picked.drift,
    identities: picked.identities,
    places: picked.places,
    order,
    ...change,
  });
}
