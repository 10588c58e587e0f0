import { api, sentence, type PlanOf } from '../../api/client';
import { useSite } from '../../state/site';

const SEEDS = 1000;

/** The patina a kind of weathering starts as; null, and said, where the server does not answer with one. */
export async function begun(recipe: string, surfaces: string[]): Promise<PlanOf<'patina'> | null> {
  const { id, items, say } = useSite.getState();
  const seed = (Object.keys(items).length * 13) % SEEDS;
  const { data, error } = await api
    .POST('/api/sites/{site_id}/weathering', { params: { path: { site_id: id } }, body: { recipe, surfaces, seed } })
    .catch((failed: unknown) => ({ data: undefined, error: failed }));
  if (data) return data as PlanOf<'patina'>;
  say(sentence(error));
  return null;
}
