import { fresh } from '../../api/defaults';
import { tidyPlace } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import { useBench } from '../../state/bench';
import { freeName, top } from '../../state/fresh';
import { newKey, useSite, type Item } from '../../state/site';
import type { Landing } from '../kind';

/** A decal of a picture of this width to height, lying where it was set down. */
export function freshDecal(items: Record<string, Item>, { thing, hit }: Landing, aspect: number) {
  return fresh('decal', {
    name: freeName(items, thing.title.toLowerCase()),
    picture: thing.id,
    position: tidyPlace(hit.point),
    facing: tidyPlace(hit.normal),
    height: Number((1 / aspect).toFixed(4)),
    depth: 0.4,
    receivers: [hit.owner],
    only: true,
    order: top(items, 'decal'),
  });
}

/** A decal thrown onto the surface that was clicked, a metre wide. */
export function setDown(plate: PlateScene, landing: Landing) {
  const { items, commit, select } = useSite.getState();
  const key = newKey('decal');
  const plan = freshDecal(items, landing, plate.stage.store.info(landing.thing.id).aspect);
  commit('place a decal', [{ key, plan }]);
  select(key);
  useBench.getState().set({ tool: 'look', armed: null });
}
