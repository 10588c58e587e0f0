import { fresh } from '../../api/defaults';
import { tidyPlace } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import { freeName } from '../../state/fresh';
import { newKey, useSite } from '../../state/site';
import type { Landing } from '../kind';

/** A piece where the click met something; it is told how high the ground is there, to go along with it. */
export function setDown(plate: PlateScene, { thing, hit, turn, size }: Landing) {
  const { items, commit, say } = useSite.getState();
  const ground = plate.picker.groundHeight(hit.point.x, hit.point.z);
  const plan = fresh('piece', {
    name: freeName(items, thing.title.toLowerCase()),
    asset: thing.id,
    position: tidyPlace(hit.point),
    turn,
    size,
    ground_at: ground === null ? null : Number(ground.toFixed(4)),
  });
  commit('place a piece', [{ key: newKey('piece'), plan }]);
  say('Placed. Click again for another; Esc when done.');
}
