import { unpack, type Packet } from '../../api/packet';
import type { PlateScene } from '../../plate/PlateScene';
import { BodiesPart } from '../weather/BodiesPart';

/** Droplets as they would be: a mesh for each thing they form on. */
export function showBeads(plate: PlateScene, key: string, packet: Packet) {
  const bodies = plate.part(BodiesPart);
  for (const [owner, bytes] of Object.entries(packet.arrays))
    bodies.take(`${key}.${owner}`, owner, 'water', unpack((bytes as Uint8Array).slice().buffer));
}
