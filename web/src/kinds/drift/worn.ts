import * as THREE from 'three';
import { unpack } from '../../api/packet';
import { fetchPart } from '../../api/parts';

/** Colours of vertices by the level they are for, and the addresses they came from, or are to come from. */
export interface Worn {
  worn: Map<string, THREE.BufferAttribute>;
  wornAt: string;
}

/** Fetch the colours of a drift if they are other ones now; true if they have come and were not overtaken. */
export async function takeWorn(drift: Worn, levels: Record<string, string[]>): Promise<boolean> {
  const wanted = JSON.stringify(levels);
  if (drift.wornAt === wanted) return false;
  drift.wornAt = wanted;
  const one = async (name: string, url: string) =>
    [name, new THREE.BufferAttribute(unpack(await fetchPart(url)).arrays.color as Float32Array, 4)] as const;
  try {
    const found = await Promise.all(
      Object.entries(levels).flatMap(([asset, urls]) => urls.map((url, lod) => one(`${asset}/${lod}`, url))),
    );
    if (drift.wornAt !== wanted) return false;
    drift.worn = new Map(found);
    return true;
  } catch (error) {
    // Asked for again with the next change.
    if (drift.wornAt === wanted) drift.wornAt = '';
    throw error;
  }
}

/** The same triangles in other colours; geometry of another size is left as it is. */
export function coloured(geometry: THREE.BufferGeometry, colours: THREE.BufferAttribute): THREE.BufferGeometry {
  if (colours.count !== geometry.getAttribute('position').count) return geometry;
  const out = new THREE.BufferGeometry();
  for (const [name, attribute] of Object.entries(geometry.attributes))
    out.setAttribute(name, name === 'color' ? colours : attribute);
  out.setIndex(geometry.index);
  out.setDrawRange(geometry.drawRange.start, geometry.drawRange.count);
  out.userData.coloured = true;
  return out;
}

/** Give back what instances hold of their own; what they share with others stays. */
export function letGo(mesh: THREE.InstancedMesh) {
  mesh.dispose();
  const { geometry } = mesh;
  if (!geometry.userData.coloured) return;
  for (const name of Object.keys(geometry.attributes)) geometry.deleteAttribute(name);
  geometry.setIndex(null);
  geometry.dispose();
}
