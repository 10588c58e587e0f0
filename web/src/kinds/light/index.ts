import { kindView } from '../kind';
import { LightSheet } from './LightSheet';

export default kindView<'light'>({
  kind: 'light',
  step: { name: 'Air', key: '7' },
  single: 'light',
  sheet: LightSheet,
  draft: (plate, _, plan) => {
    plate.light.takePlan(plan);
    return true;
  },
  show: (plate, _, __, packet) => plate.light.take(packet),
});
