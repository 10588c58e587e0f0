import { api, given, type Asset, type PlanOf } from '../../api/client';
import { fresh } from '../../api/defaults';
import { grassOf, TUFTS, tuftsOf } from '../../api/tufts';
import { atRest, useBench } from '../../state/bench';
import { itemsOf, newKey, useSite, type Edit, type Item } from '../../state/site';
import { freeName } from '../../state/fresh';

type Grass = PlanOf<'grass'>;
type Share = PlanOf<'drift'>['assets'][number];

/** Drifts in whose mix a grass is. */
export const growsIn = (items: Record<string, Item>, grass: string) =>
  itemsOf(items, 'drift').filter((d) => d.plan.assets.some((a) => grassOf(a.asset) === grass));

export const sown = (item: string, weight: number): Share[] => tuftsOf(item).map((asset) => ({ asset, weight }));

/** How the grasses of the kit grow, by asset. */
export async function kitGrasses(): Promise<{ asset: string; plan: Grass }[]> {
  return given(await api.GET('/api/kit/grasses')) as { asset: string; plan: Grass }[];
}

/** Can an asset be shaped as a grass? Those of the kit have a far card beside their blades. */
export const isGrass = (asset: Asset) =>
  Object.keys(asset.materials)
    .filter((slot) => slot !== 'far')
    .join() === 'blade';

/** Open a grass's own settings. */
export function openGrass(key: string) {
  useBench.getState().set({ ...atRest, step: 'Drifts', sheetOpen: true });
  useSite.getState().select(key);
}

/**
 * Shape a grass of a drift: one's own is opened; one of the kit is copied and replaced in the mix by the copy. Without
 * an asset a new grass is added to the mix, without a drift it stands in the kit alone.
 */
export async function shapeGrass(drift?: string, asset?: string) {
  const own = asset ? grassOf(asset) : null;
  if (own) return openGrass(own);
  const found = asset ? (await kitGrasses().catch(() => [])).find((g) => g.asset === asset)?.plan : undefined;
  if (asset && !found)
    return useSite.getState().say('How this grass grows could not be read. Nothing was changed; try again.');
  const { items, commit } = useSite.getState();
  const key = newKey('grass');
  const plan: Grass = {
    ...fresh('grass', {}),
    ...found,
    name: freeName(items, found ? `${found.name.toLowerCase()}, own` : 'own grass'),
  };
  const edits: Edit[] = [{ key, plan }];
  const into = drift ? items[drift]?.plan : undefined;
  if (drift && into?.kind === 'drift') {
    const assets = asset
      ? into.assets.flatMap((a) => (a.asset === asset ? sown(key, a.weight / TUFTS) : a))
      : [...into.assets, ...sown(key, 1)];
    edits.push({ key: drift, plan: { ...into, assets } });
  }
  commit(`new grass ${plan.name}`, edits);
  openGrass(key);
}

/** Put a grass into the mix of a drift. */
export function sowInto(drift: string, grass: string) {
  const { items, commit } = useSite.getState();
  const into = items[drift]?.plan,
    plan = items[grass]?.plan;
  if (into?.kind === 'drift' && plan)
    commit(`${plan.name} in ${into.name}`, [
      { key: drift, plan: { ...into, assets: [...into.assets, ...sown(grass, 1)] } },
    ]);
}

/** Take a grass away, out of every mix too, in one step. */
export function removeGrass(grass: string) {
  const { items, commit } = useSite.getState();
  const plan = items[grass]?.plan;
  if (!plan) return;
  const mixes = growsIn(items, grass).map((d) => ({
    key: d.key,
    plan: { ...d.plan, assets: d.plan.assets.filter((a) => grassOf(a.asset) !== grass) },
  }));
  commit(`delete ${plan.name}`, [...mixes, { key: grass, plan: null }]);
}
