import type * as THREE from 'three';
import type { Asset } from '../../api/client';
import type { Packet } from '../../api/packet';
import { geometryOf, partsOf } from '../../plate/geometry';
import { bentShadow, leafMaterial, surfaceMaterial } from '../../plate/materials';
import type { PlateContext } from '../../plate/PlateContext';
import type { Level } from './culling';

/** A level of detail of an asset as it is drawn: a part a material. Null where it is empty. */
export async function levelOf(plate: PlateContext, asset: Asset, packet: Packet, lod: number): Promise<Level | null> {
  const geometry = geometryOf(packet, true);
  if (!geometry) return null;
  const slots = geometry.userData.slots as string[];
  const materials = await Promise.all(slots.map((slot) => slotMaterial(plate, asset, slot, geometry)));
  const parts = partsOf(geometry).map((part, k) => ({
    geometry: part,
    material: materials[k],
    shadow: bentShadow(asset.size[1]),
  }));
  return {
    name: `${asset.id}/${lod}`,
    parts: parts.filter(({ geometry: { drawRange } }) => drawRange.count > 0),
    faces: geometry.index!.count / 3,
  };
}

async function slotMaterial(
  { stage, machine }: PlateContext,
  asset: Asset,
  slot: string,
  lod: THREE.BufferGeometry,
): Promise<THREE.Material> {
  const id = asset.materials[slot] ?? 'concrete';
  const { alpha, translucency } = stage.store.info(id);
  if (alpha || translucency > 0) return leafMaterial(await stage.store.cutOut(id), machine.lighting, asset.size[1]);
  const tall = asset.size[1];
  const made = surfaceMaterial(await stage.store.get(id), { layers: 0, tall }, machine.lighting);
  if (lod.userData.ownUv) made.userData.uniforms.uTile.value = 1;
  return made;
}
