import { answerOf } from '../../plate/answer';
import { KitSheet } from '../../bench/sheets/KitSheet';
import { kindView } from '../kind';
import { DecalSheet } from './DecalSheet';
import { handles } from './handles';

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
  show: (plate, key, plan, packet) =>
    plate.decals.take(key, packet, plan.picture, plan.tint, answerOf(plan, plate.stage.store.info(plan.picture))),
});
