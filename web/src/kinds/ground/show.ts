import type { Packet } from '../../api/packet';
import type { PlateScene } from '../../plate/PlateScene';

/** The ground as it would be; pieces ride on it. */
export async function showGround(plate: PlateScene, packet: Packet) {
  plate.surfaces.takeMesh('ground', packet);
  plate.surfaces.takeLifts((packet.info.lifts ?? {}) as Record<string, number>);
  await plate.surfaces.dressOwner('ground');
}
