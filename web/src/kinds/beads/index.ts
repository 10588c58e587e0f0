import { fresh } from '../../api/defaults';
import { freeName, top } from '../../state/fresh';
import { showAsCover } from '../../plate/masks';
import { kindView } from '../kind';
import { BeadsSheet } from './BeadsSheet';
import { Drops } from './Drops';
import { showBeads } from './show';

export default kindView<'beads'>({
  kind: 'beads',
  joins: 'Water',
  sheet: BeadsSheet,
  fresh: (items) => fresh('beads', { name: freeName(items, 'beads'), order: top(items, 'beads') }),
  order: (a, b) => a.order - b.order || a.name.localeCompare(b.name),
  amount: (_, effect) => (effect ? Math.round(effect.amount).toLocaleString('en').replaceAll(',', ' ') : ''),
  mark: Drops,
  painted: true,
  alone: true,
  showMask: (plate, key, plan, { beadmasks }) =>
    showAsCover(
      plate,
      beadmasks.find((mask) => mask.key === key)?.url,
      key,
      fresh('patina', { name: plan.name, uses: plan.uses }),
    ),
  show: (plate, key, _, packet) => showBeads(plate, key, packet),
});
