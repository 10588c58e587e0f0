import type { ItemPlan } from '../api/client';

interface Known {
  plan: ItemPlan;
}

const presence = ['locked', 'visible'];

/** Do two plans differ in nothing but whether the item is locked or shown? */
function onlyPresence(before: ItemPlan, after: ItemPlan): boolean {
  const rest = (plan: ItemPlan) =>
    JSON.stringify(
      Object.entries(plan)
        .filter(([name]) => !presence.includes(name))
        .sort(),
    );
  return rest(before) === rest(after);
}

/** The name of a locked item that a change would touch: the item itself, or what a hand edit is made on. Null if there is none. */
export function lockedBy(items: Record<string, Known>, key: string, after: ItemPlan | null): string | null {
  const before = items[key]?.plan;
  if (before?.locked && !(after && onlyPresence(before, after))) return before.name;
  const hand = after ?? before;
  if (hand && 'target' in hand && typeof hand.target === 'string') {
    const target = items[hand.target.startsWith('ground.') ? 'ground' : hand.target]?.plan;
    if (target?.locked) return target.name;
  }
  return null;
}

/** What is said of a change to something locked. */
export const lockedSentence = (name: string) => `‘${name}’ is locked. Open its lock in the course to change it.`;
