import { kindView } from '../kind';
import { StationSheet } from './StationSheet';

export default kindView<'station'>({
  kind: 'station',
  sheet: StationSheet,
  draft: (plate, _, plan) => {
    plate.eye.lookFrom(plan);
    return false;
  },
});
