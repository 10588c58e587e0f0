import type { Answer } from '../answer';
import * as THREE from 'three';
import type { Packet } from '../../api/packet';
import type { SurfaceMaterial } from '../materials';

/** Metres within which a texel of a coarser picture would be wider than a pixel. */
const CLOSE = 3;

/** In place of an address: what is shown is a preview, and the saved state has to come again even under the same address. */
export const DRAFT = 'draft';

/** The ground or a piece as it is drawn. Of its parts it knows which version is wanted and which is shown. */
export interface OwnerView {
  group: THREE.Group;
  mesh: THREE.Mesh | null;
  meshWanted: string;
  meshShown: string;
  coverWanted: string;
  coverShown: string;
  covers: THREE.DataArrayTexture | null;
  coverOrder: string[];
  /** How far it lies open to the sky; fetched once the weather is not dry. */
  exposure: THREE.DataTexture | null;
  exposureWanted: string;
  exposureShown: string;
  materialKey: string;
  surfaces: { ref: string; slot: string; material: string; answer: Answer }[];
}

export function freshOwner(owner: string): OwnerView {
  const group = new THREE.Group();
  group.userData.owner = owner;
  return {
    group,
    mesh: null,
    meshWanted: '',
    meshShown: '',
    coverWanted: '',
    coverShown: '',
    covers: null,
    coverOrder: [],
    exposure: null,
    exposureWanted: '',
    exposureShown: '',
    materialKey: '',
    surfaces: [],
  };
}

/** Give back what an owner holds on the graphics card; pictures belong to the store. */
export function disposeOwner({ mesh, covers, exposure }: OwnerView) {
  mesh?.geometry.dispose();
  (mesh?.userData.materials as SurfaceMaterial[] | undefined)?.forEach((material) => material.dispose());
  covers?.dispose();
  exposure?.dispose();
}

/** Owners before the eye within a few metres, nearest first. */
export function near(owners: ReadonlyMap<string, OwnerView>, frustum: THREE.Frustum, eye: THREE.Vector3) {
  const box = new THREE.Box3();
  const found = [...owners].flatMap(([key, owner]) => {
    if (!owner.mesh || !frustum.intersectsBox(box.setFromObject(owner.mesh))) return [];
    const away = box.distanceToPoint(eye);
    return away < CLOSE ? [{ key, owner, away }] : [];
  });
  return found.sort((a, b) => a.away - b.away);
}

/** A map of an unwrap as the card reads it: one byte a texel; null where the packet has none. */
export function mapTexture(packet: Packet, name: string): THREE.DataTexture | null {
  if (!packet.shapes[name]) return null;
  const [height, width] = packet.shapes[name];
  const format = packet.shapes[name].length > 2 ? THREE.RGBAFormat : THREE.RedFormat;
  const texture = new THREE.DataTexture(new Uint8Array(packet.arrays[name] as Uint8Array), width, height, format);
  texture.minFilter = texture.magFilter = THREE.LinearFilter;
  texture.unpackAlignment = 1;
  texture.needsUpdate = true;
  return texture;
}

/** Covers as the card reads them: one plane a patina. */
export function coverTexture(values: Uint8Array, [layers, height, width]: number[]): THREE.DataArrayTexture {
  const texture = new THREE.DataArrayTexture(new Uint8Array(values), width, height, Math.max(1, layers));
  texture.format = THREE.RedFormat;
  texture.magFilter = THREE.LinearFilter;
  // Far off a texel of the picture covers many of the cover's: without smaller ones it would glitter.
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.unpackAlignment = 1;
  texture.needsUpdate = true;
  return texture;
}
