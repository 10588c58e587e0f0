import type { PlanOf, Weathering } from '../../api/client';

export type Dial = Weathering['dials'][number];
type Holder = Record<string, unknown>;

/** The object that holds a number of a patina, and the number's name; nothing where the rule is gone. */
function holder(plan: Holder, at: string): [Holder, string] | null {
  const colon = at.lastIndexOf(':');
  const names = at.slice(colon + 1).split('.');
  const last = names.pop() as string;
  let inside: Holder | undefined = plan;
  if (colon >= 0) inside = (plan.rules as Holder[]).find((rule) => rule.measure === at.slice(0, colon));
  for (const name of names) inside = inside?.[name] as Holder | undefined;
  return inside && last in inside ? [inside, last] : null;
}

/** What a dial stands at; null where what it turns is no longer there. */
export function dialValue(plan: PlanOf<'patina'>, dial: Dial): number | null {
  const found = dial.sets.map((sets) => holder(plan as unknown as Holder, sets.at));
  if (found.some((one) => !one)) return null;
  const [inside, name] = found[0] as [Holder, string];
  return ((inside[name] as number) - dial.sets[0].plus) / dial.sets[0].times;
}

/** The patina with a dial turned. */
export function turned(plan: PlanOf<'patina'>, dial: Dial, value: number): PlanOf<'patina'> {
  const next = structuredClone(plan);
  for (const sets of dial.sets) {
    const found = holder(next as unknown as Holder, sets.at);
    if (found) found[0][found[1]] = sets.times * value + sets.plus;
  }
  return next;
}
