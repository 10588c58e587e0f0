import type { ItemPlan, PlanOf } from '../api/client';

/** Kinds of changes made by hand on another item. */
export const handKinds = ['touch', 'placed', 'line', 'edit'] as const;

export type Hand = PlanOf<(typeof handKinds)[number]>;

export const isHand = (plan: ItemPlan): plan is Hand => (handKinds as readonly string[]).includes(plan.kind);
