import { api, type PlanOf } from '../../api/client';
import { fresh } from '../../api/defaults';
import { atRest, useBench } from '../../state/bench';
import { newKey, useSite } from '../../state/site';
import { nextOrder } from '../../state/fresh';

/** The assets of a drift's mix as the clicks go through them, heavier ones more often. */
function armedOf(plan: PlanOf<'drift'>): { id: string; title: string }[] {
  const least = Math.min(...plan.assets.filter((a) => a.weight > 0).map((a) => a.weight));
  return plan.assets.flatMap((a) =>
    Array.from({ length: Math.min(6, Math.max(a.weight > 0 ? 1 : 0, Math.round(a.weight / least))) }, () => ({
      id: a.asset,
      title: a.asset.replaceAll('_', ' '),
    })),
  );
}

/** Set down one asset of a drift a click. */
export function takeInTurn(drift: string) {
  const plan = useSite.getState().items[drift]?.plan;
  if (plan?.kind === 'drift') useBench.getState().set({ ...atRest, tool: 'place', armed: armedOf(plan) });
}

/** Draw a line in the plate and set the drift along it. */
export function startLine(drift: string) {
  const { set } = useBench.getState();
  const done = (points: [number, number, number][]) => {
    const { items, commit } = useSite.getState();
    const plan = items[drift]?.plan;
    if (plan?.kind !== 'drift') return;
    const line = fresh('line', {
      name: `line of ${plan.name}`,
      target: drift,
      points,
      spacing: Math.max(0.02, plan.spacing * 1.5),
      order: nextOrder(items),
    });
    commit(`${plan.name} along a line`, [{ key: newKey('line'), plan: line }]);
    set(atRest);
  };
  set({ ...atRest, tool: 'draw', drawing: { what: 'the line', points: [], done } });
}

/** Add the drifts of a recipe in one undoable step. */
export async function addRecipe(recipe: string, surfaces: string[]): Promise<string> {
  const { id, items, commit } = useSite.getState();
  const seed = Object.values(items).filter((i) => i.plan.kind === 'drift').length * 11 + 1;
  const { data, error } = await api.POST('/api/sites/{site_id}/recipe', {
    params: { path: { site_id: id } },
    body: { recipe, surfaces, seed },
  });
  if (!data)
    return error && 'detail' in error
      ? String((error as { detail: unknown }).detail)
      : 'The recipe could not be read. Try again.';
  commit(
    `recipe ${recipe.replaceAll('_', ' ')}`,
    data.map((plan) => ({ key: newKey('drift'), plan: plan as PlanOf<'drift'> })),
  );
  return '';
}
