import { kindView } from '../kind';
import { GroundSheet } from './GroundSheet';
import { showGround } from './show';
import { WatersPart } from './WatersPart';

export default kindView<'ground'>({
  kind: 'ground',
  step: { name: 'Ground', key: '1' },
  single: 'ground',
  parts: [WatersPart],
  sheet: GroundSheet,
  show: (plate, _, __, packet) =>
    packet.info.patinas ? plate.surfaces.takeCoverPreview(packet) : showGround(plate, packet),
});
