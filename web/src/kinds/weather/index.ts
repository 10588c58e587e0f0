import type { Manifest } from '../../api/client';
import { SKY_IMAGE } from '../../plate/sky';
import { kindView } from '../kind';
import { takeSeason, takeWeather } from './part';

export default kindView<'weather'>({
  kind: 'weather',
  single: 'weather',
  draft: (plate, _, plan) => {
    takeWeather(plate, plan);
    return true;
  },
  show: async (plate, _, __, packet) => {
    if (packet.info.patinas) await plate.owners.takeCoverPreview(packet);
    if (packet.arrays[SKY_IMAGE]) plate.light.take(packet);
    await takeSeason(plate, packet.info.materials as Manifest['materials']);
  },
});
