import { createElement } from 'react';
import { fresh } from '../../api/defaults';
import type { PlanOf, Schemas } from '../../api/client';
import { freeName } from '../../state/fresh';
import { kindView } from '../kind';
import { handles } from './handles';
import { LampSheet } from './LampSheet';
import { LampsPart } from './part';

/** A ball with rays, filled where it shines. */
const Mark = ({ plan }: { plan: PlanOf<'lamp'> }) =>
  createElement(
    'svg',
    { width: 36, height: 14, 'aria-hidden': true, style: { flex: 'none' } },
    createElement('circle', {
      cx: 18,
      cy: 7,
      r: 3.5,
      stroke: 'currentColor',
      fill: plan.lumens ? 'currentColor' : 'none',
    }),
    createElement('path', { d: 'M6 7h6M24 7h6', stroke: 'currentColor' }),
  );

export default kindView<'lamp'>({
  kind: 'lamp',
  joins: 'Air',
  sheet: LampSheet,
  parts: [LampsPart],
  fresh: (items) => fresh('lamp', { name: freeName(items, 'lamp') }),
  order: (a, b) => a.name.localeCompare(b.name),
  amount: ({ lumens }) => (lumens < 10_000 ? `${lumens} lm` : `${Math.round(lumens / 1000)} klm`),
  mark: Mark,
  handles,
  draft: (plate, key, plan) => {
    plate.part(LampsPart).move(key, plan.position);
    return true;
  },
  show: (plate, _, __, packet) => plate.part(LampsPart).take(packet.info as unknown as Schemas['LampOut']),
});
