import type { Manifest } from '../../api/client';
import { SKY_IMAGE } from '../../plate/sky';
import { kindView } from '../kind';
import { LightPart } from '../light/part';
import { BodiesPart } from './BodiesPart';
import { FallingPart } from './FallingPart';
import { HitsPart } from './HitsPart';
import { takeSeason, takeWeather } from './part';
import { PoolsPart } from './PoolsPart';
import { RoofsPart } from './RoofsPart';
import { SnowPart } from './SnowPart';

export default kindView<'weather'>({
  kind: 'weather',
  single: 'weather',
  parts: [SnowPart, PoolsPart, BodiesPart, FallingPart, HitsPart, RoofsPart],
  draft: (plate, _, plan) => {
    takeWeather(plate, plan);
    return true;
  },
  show: async (plate, _, __, packet) => {
    if (packet.info.patinas) await plate.surfaces.takeCoverPreview(packet);
    if (packet.arrays[SKY_IMAGE]) plate.part(LightPart).take(packet);
    await takeSeason(plate, packet.info.materials as Manifest['materials']);
  },
});
