import { answerOf } from '../../plate/answer';
import { KitSheet } from '../../ui/KitSheet';
import { kindView } from '../kind';
import { DecalSheet } from './DecalSheet';
import { handles } from './handles';
import { DecalsPart } from './part';
import { setDown } from './setDown';

export default kindView<'decal'>({
  kind: 'decal',
  step: { name: 'Decals', key: '5' },
  sheet: DecalSheet,
  offer: KitSheet,
  order: (a, b) => b.order - a.order,
  swatch: (plan) => ({ material: plan.picture, paper: '#bdb8ac' }),
  stacked: true,
  alone: true,
  handles,
  parts: [DecalsPart],
  setDown,
  flat: true,
  show: (plate, key, plan, packet) =>
    plate
      .part(DecalsPart)
      .take(key, packet, plan.picture, plan.tint, answerOf(plan, plate.stage.store.info(plan.picture))),
});
