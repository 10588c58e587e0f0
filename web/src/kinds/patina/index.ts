import { fresh } from '../../api/defaults';
import { freeName, top } from '../../state/fresh';
import { kindView } from '../kind';
import { PatinaSheet } from './PatinaSheet';
import { Offer } from './Offer';

const open = { active: true, strength: 1 };

export default kindView<'patina'>({
  kind: 'patina',
  step: { name: 'Patinas', key: '4' },
  sheet: PatinaSheet,
  offer: Offer,
  fresh: (items) =>
    fresh('patina', {
      name: freeName(items, 'new patina'),
      order: top(items, 'patina'),
      rules: [
        { ...open, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 55, fall_end: 95 } },
        {
          ...open,
          measure: 'noise',
          pattern: 'patches',
          gate: { rise_start: 0.32, rise_end: 0.78, fall_start: 1, fall_end: 1 },
          size: 0.7,
          detail: 6,
          seed: 1,
        },
      ],
    }),
  order: (a, b) => b.order - a.order,
  amount: (plan) => String(plan.uses.length),
  swatch: (plan) => ({ material: plan.finish.material, tint: plan.finish.tint }),
  stacked: true,
  painted: true,
  alone: true,
  show: (plate, key, plan, packet) => plate.surfaces.takeCoverPreview(packet, { [key]: plan }),
});
