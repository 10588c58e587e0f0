import { kindView } from '../kind';

export default kindView<'station'>({
  kind: 'station',
  draft: (plate, _, plan) => {
    plate.eye.lookFrom(plan);
    return false;
  },
});
