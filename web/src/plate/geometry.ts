import * as THREE from 'three';
import type { Packet } from '../api/packet';

/** The parts of a geometry that are drawn with one material each, on the same buffers. */
export function partsOf(geometry: THREE.BufferGeometry): THREE.BufferGeometry[] {
  return geometry.groups.map(({ start, count }) => {
    const part = new THREE.BufferGeometry();
    for (const [name, attribute] of Object.entries(geometry.attributes)) part.setAttribute(name, attribute);
    part.setIndex(geometry.index);
    part.setDrawRange(start, count);
    part.userData = geometry.userData;
    part.boundingSphere = geometry.boundingSphere;
    part.boundingBox = geometry.boundingBox;
    return part;
  });
}

/** A buffer geometry with one group a material slot, from the server's mesh packet; null if it is empty. `coloured`: white where it has no colours. */
export function geometryOf(packet: Packet, coloured = false): THREE.BufferGeometry | null {
  const { arrays, info } = packet;
  if (!arrays.position) return null;
  const geometry = new THREE.BufferGeometry();
  const float = (name: string, size: number) => new THREE.BufferAttribute(arrays[name] as Float32Array, size);
  geometry.setAttribute('position', float('position', 3));
  geometry.setAttribute('normal', float('normal', 3));
  geometry.setAttribute('uv', float('uv', 2));
  if (arrays.uv1) geometry.setAttribute('unwrapUv', float('uv1', 2));
  if (arrays.baseUv) {
    geometry.setAttribute('baseUv', float('baseUv', 2));
    // By three's own name, for its shadows.
    geometry.setAttribute('uv1', geometry.getAttribute('baseUv'));
  }
  if (arrays.sway) geometry.setAttribute('sway', new THREE.BufferAttribute(arrays.sway as Uint8Array, 4, true));
  if (arrays.color) geometry.setAttribute('color', float('color', 4));
  else if (coloured)
    geometry.setAttribute(
      'color',
      new THREE.BufferAttribute(new Float32Array((arrays.position.length / 3) * 4).fill(1), 4),
    );
  geometry.setIndex(new THREE.BufferAttribute(arrays.index as Uint32Array, 1));
  let start = 0;
  ((info.counts as number[] | undefined) ?? []).forEach((faces, slot) => {
    geometry.addGroup(start, faces * 3, slot);
    start += faces * 3;
  });
  geometry.userData.slots = info.slots ?? [];
  geometry.userData.ownUv = info.ownUv ?? false;
  geometry.userData.grid = info.grid ?? null;
  geometry.computeBoundingSphere();
  geometry.computeBoundingBox();
  return geometry;
}

/** Ground up to thirty degrees, by the square of its normal's upward part. */
const GENTLE = 0.75;

/** Set the steep faces of the ground apart as a second group: the pictures that lie on them are read from more sides. */
export function steepApart(geometry: THREE.BufferGeometry) {
  const index = geometry.index!.array as Uint32Array;
  const normal = geometry.getAttribute('normal').array as Float32Array;
  const steep = new Uint8Array(normal.length / 3);
  for (let n = 0, at = 0; n < steep.length; n++, at += 3) {
    const up = normal[at + 1] ** 2;
    steep[n] = up < GENTLE * (normal[at] ** 2 + up + normal[at + 2] ** 2) ? 1 : 0;
  }
  const sorted = new Uint32Array(index.length);
  let start = 0,
    end = index.length;
  for (let k = 0; k < index.length; k += 3) {
    const [a, b, c] = [index[k], index[k + 1], index[k + 2]];
    const at = steep[a] || steep[b] || steep[c] ? (end -= 3) : (start += 3) - 3;
    sorted[at] = a;
    sorted[at + 1] = b;
    sorted[at + 2] = c;
  }
  geometry.setIndex(new THREE.BufferAttribute(sorted, 1));
  geometry.clearGroups();
  geometry.addGroup(0, start, 0);
  if (start < index.length) geometry.addGroup(start, index.length - start, 1);
}
