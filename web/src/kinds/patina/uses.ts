import type { PlanOf } from '../../api/client';

export type Patina = PlanOf<'patina'>;
export interface Kept {
  key: string;
  plan: Patina;
}
export type Edits = { key: string; plan: Patina }[];

/** The amount a patina lies on a surface with; none: it does not lie there. */
export const amountOn = (plan: Patina, surface: string) => plan.uses.find((use) => use.surface === surface)?.amount;

/** A patina lying on a surface with an amount, or taken off it (null). */
export function laidOn(plan: Patina, surface: string, amount: number | null): Patina {
  const others = plan.uses.filter((use) => use.surface !== surface);
  if (amount === null) return { ...plan, uses: others };
  const at = plan.uses.findIndex((use) => use.surface === surface);
  if (at < 0) return { ...plan, uses: [...others, { surface, amount }] };
  return { ...plan, uses: plan.uses.map((use) => (use.surface === surface ? { ...use, amount } : use)) };
}

/** One patina in place of another on some surfaces; what lay there already keeps its own amount. */
export function exchanged(from: Kept, to: Kept, surfaces: string[]): Edits {
  const moved = from.plan.uses.filter((use) => surfaces.includes(use.surface));
  const arriving = moved.filter((use) => amountOn(to.plan, use.surface) === undefined);
  return [
    { key: from.key, plan: { ...from.plan, uses: from.plan.uses.filter((use) => !surfaces.includes(use.surface)) } },
    { key: to.key, plan: { ...to.plan, uses: [...to.plan.uses, ...arriving] } },
  ];
}

/** What lies on a surface laid on another as well, in place of what lay there; only what changes. */
export function stackLaid(patinas: Kept[], from: string, to: string): Edits {
  return patinas.flatMap(({ key, plan }) => {
    const [wanted, there] = [amountOn(plan, from), amountOn(plan, to)];
    return wanted === there ? [] : [{ key, plan: laidOn(plan, to, wanted ?? null) }];
  });
}
