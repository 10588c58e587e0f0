import { kindView } from '../kind';
import { GroundSheet } from './GroundSheet';
import { showGround } from './show';

export default kindView<'ground'>({
  kind: 'ground',
  step: { name: 'Ground', key: '1' },
  single: 'ground',
  sheet: GroundSheet,
  show: (plate, _, __, packet) =>
    packet.info.patinas ? plate.owners.takeCoverPreview(packet) : showGround(plate, packet),
});
