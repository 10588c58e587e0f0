import type { PlanOf, Rule } from '../../api/client';
import { defaults } from '../../api/defaults';
import { measures, type Measure } from '../../api/measures';

type Ground = PlanOf<'ground'>;
export type Layer = Ground['layers'][number];

interface Start {
  title: string;
  help: string;
  rules: [Measure, [number, number, number, number]][];
}

/** Where a surface of the ground may lie to begin with; its rules can be changed afterwards. */
export const starts: Start[] = [
  { title: 'by hand', help: 'Only where it is painted', rules: [['painted', [0, 1, 1, 1]]] },
  {
    title: 'on paths',
    help: 'On the floors of all paths, wherever they are moved',
    rules: [['path', [-1000, -1000, 0, 0.35]]],
  },
  {
    title: 'around pieces',
    help: 'Up to 2 m from what stands here, thinning to 4 m, where it is not steep',
    rules: [
      ['near', [-1, -1, 2, 4]],
      ['slope', [0, 0, 32, 45]],
    ],
  },
  { title: 'on steep ground', help: 'From 38° on', rules: [['slope', [30, 38, 90, 90]]] },
];

export const startRules = ({ rules }: Start): Rule[] =>
  rules.map(([measure, [rise_start, rise_end, fall_start, fall_end]]) => {
    return {
      ...defaults(measures[measure].model),
      measure,
      active: true,
      strength: 1,
      gate: { rise_start, rise_end, fall_start, fall_end },
    } as unknown as Rule;
  });

/** A new surface of a material, with a name of its own. */
export function freshLayer(plan: Ground, material: string, start = starts[0]): Layer {
  let key = material.replaceAll(/[^A-Za-z0-9_-]/g, '');
  while (plan.layers.some((l) => l.key === key)) key += '2';
  return { key, material, amount: 1, blend: 0.6, scale: 1, rules: startRules(start) };
}
