import { kindView } from '../kind';
import { LightSheet } from './LightSheet';
import { LightPart } from './part';

export default kindView<'light'>({
  kind: 'light',
  step: { name: 'Air', key: '7' },
  single: 'light',
  parts: [LightPart],
  sheet: LightSheet,
  draft: (plate, _, plan) => {
    plate.part(LightPart).takePlan(plan);
    return true;
  },
  show: (plate, _, __, packet) => plate.part(LightPart).take(packet),
});
