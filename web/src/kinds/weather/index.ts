import type { Manifest } from '../../api/client';
import { kindView } from '../kind';
import { takeSeason, takeWeather } from './part';

export default kindView<'weather'>({
  kind: 'weather',
  single: 'weather',
  draft: (plate, _, plan) => {
    takeWeather(plate, plan);
    return true;
  },
  show: (plate, _, __, packet) => takeSeason(plate, packet.info.materials as Manifest['materials']),
});
