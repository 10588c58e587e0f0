import { fresh } from '../../api/defaults';
import { tidyPlace } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import { nextOrder } from '../../state/fresh';
import { newKey, useSite } from '../../state/site';
import type { Landing } from '../kind';

/** One thing more of the selected drift, by hand. */
export function setDown(plate: PlateScene, { thing, hit, turn, size }: Landing) {
  const { items, commit, selected } = useSite.getState();
  if (!selected || items[selected]?.plan.kind !== 'drift') return;
  const point = tidyPlace(plate.picker.toLocal(hit.owner, hit.point));
  const plan = fresh('placed', {
    name: `${thing.title} by hand`,
    target: selected,
    owner: hit.owner,
    things: [{ asset: thing.id, point, turn, size }],
    order: nextOrder(items),
  });
  commit(`set down ${thing.title}`, [{ key: newKey('placed'), plan }]);
}
