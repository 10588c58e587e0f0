import { fresh } from '../../api/defaults';
import { unpack } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { freeName } from '../../bench/fresh';
import { RecipeSheet } from '../../bench/sheets/RecipeSheet';
import { figure } from '../../theme';
import { kindView } from '../kind';
import { DriftSheet } from './DriftSheet';

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
  alone: true,
  showMask: async (plate, key, plan, { drifts }) => {
    const found = drifts.find((drift) => drift.key === key);
    if (!found) return;
    const uses = plan.surfaces.map((surface) => ({ surface, amount: 1 }));
    await plate.owners.takeCoverPreview(unpack(await fetchPart(found.mask)), {
      [key]: fresh('patina', { name: plan.name, uses }),
    });
  },
  show: (plate, key, plan, packet) => plate.drifts.take(key, packet, plan.tier),
});
