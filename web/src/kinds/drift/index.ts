import { fresh } from '../../api/defaults';
import { freeName } from '../../state/fresh';
import { RecipeSheet } from './RecipeSheet';
import { showAsCover } from '../../plate/masks';
import { figure } from '../../theme';
import { kindView } from '../kind';
import { DriftSheet } from './DriftSheet';
import { DriftsPart } from './part';
import { ThingPicker } from './picking';
import { setDown } from './setDown';

const tiers = ['canopy', 'shrub', 'cover', 'litter'];

export default kindView<'drift'>({
  kind: 'drift',
  step: { name: 'Drifts', key: '3' },
  sheet: DriftSheet,
  offer: RecipeSheet,
  fresh: (items) => {
    const plan = fresh('drift', {
      name: freeName(items, 'new drift'),
      assets: [{ asset: 'grass_mid', weight: 1 }],
      surfaces: ['ground/ground'],
      density: 4,
      spacing: 0.25,
      headroom: 0.3,
      rules: [
        {
          active: true,
          strength: 1,
          measure: 'slope',
          gate: { rise_start: 0, rise_end: 0, fall_start: 30, fall_end: 45 },
        },
      ],
      keep_outs: [{ of: 'pieces', clearance: 0.02, reach: 6 }],
    });
    return { ...plan, variety: { ...plan.variety, size_min: 0.7, size_max: 1.3, lean: 8, follow: 0.3, tint: 0.25 } };
  },
  order: (a, b) => tiers.indexOf(a.tier) - tiers.indexOf(b.tier) || a.name.localeCompare(b.name),
  amount: (_, effect) => (effect ? figure(effect.amount) : '…'),
  swatch: (plan) => ({ asset: plan.assets[0]?.asset }),
  toggles: true,
  title: (plan) => `${plan.tier} tier`,
  painted: true,
  scattered: true,
  parts: [DriftsPart],
  setDown,
  under: (plate, x, y) => new ThingPicker(plate).driftAt(x, y),
  alone: true,
  showMask: (plate, key, plan, { drifts }) => {
    const uses = plan.surfaces.map((surface) => ({ surface, amount: 1 }));
    const url = drifts.find((drift) => drift.key === key)?.mask;
    return showAsCover(plate, url, key, fresh('patina', { name: plan.name, uses }));
  },
  show: (plate, key, plan, packet) => plate.part(DriftsPart).take(key, packet, plan.tier),
});
