import * as THREE from 'three';
import type { Manifest } from '../../api/client';
import { fetchPart } from '../../api/parts';
import { unpack, type Packet } from '../../api/packet';
import { geometryOf } from '../../plate/geometry';
import type { Answer } from '../../plate/answer';
import { decalMaterial } from '../../plate/materials';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';
import { DRAFT } from '../../plate/surfaces/owners';

/** A decal as it is drawn, and which version of it is wanted and shown. */
interface DecalView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material> | null;
}

/** Give back what a decal holds on the graphics card; its picture belongs to the store. */
function disposeDecal({ mesh }: DecalView) {
  mesh?.geometry.dispose();
  mesh?.material.dispose();
}

/** Decals: thin meshes on what they meet. */
export class DecalsPart implements PlatePart {
  private decals = new Map<string, DecalView>();

  constructor(private plate: PlateContext) {}

  overlays() {
    return [...this.decals.values()].flatMap(({ mesh }) => mesh ?? []);
  }

  applyView({ view, maskOf }: Seen) {
    for (const mesh of this.overlays())
      mesh.visible = views[view].decals || (view === 'mask' && mesh.userData.decal === maskOf);
  }

  dispose() {
    this.decals.forEach(disposeDecal);
  }

  ahead(manifest: Manifest) {
    return manifest.decals.map((decal) => this.plate.stage.store.get(decal.picture));
  }

  async sync(manifest: Manifest) {
    const present = new Set(manifest.decals.map((d) => d.key));
    for (const [key, decal] of this.decals)
      if (!present.has(key)) {
        if (decal.mesh) this.plate.stage.scene.remove(decal.mesh);
        disposeDecal(decal);
        this.decals.delete(key);
      }
    await Promise.all(
      manifest.decals.map(async (entry, order) => {
        const decal = this.decalView(entry.key);
        const wanted = `${entry.url} ${entry.picture} ${entry.tint} ${entry.answer.join()}`;
        decal.wanted = wanted;
        if (decal.shown !== wanted) {
          const packet = unpack(await fetchPart(entry.url));
          if (decal.wanted === wanted)
            await this.take(entry.key, packet, entry.picture, entry.tint, entry.answer, wanted);
        }
        if (decal.mesh) decal.mesh.renderOrder = order + 1;
      }),
    );
  }

  private decalView(key: string): DecalView {
    const known = this.decals.get(key) ?? { wanted: '', shown: '', mesh: null };
    this.decals.set(key, known);
    return known;
  }

  /** A decal as it is saved, or as it would be. */
  async take(key: string, packet: Packet, picture: string, tint: string, answer: Answer, shown = DRAFT) {
    const pictures = await this.plate.stage.store.get(picture);
    const geometry = geometryOf(packet);
    const decal = this.decalView(key);
    const order = decal.mesh?.renderOrder ?? 1;
    if (decal.mesh) this.plate.stage.scene.remove(decal.mesh);
    disposeDecal(decal);
    decal.mesh = null;
    decal.shown = shown;
    if (geometry) {
      decal.mesh = new THREE.Mesh(geometry, decalMaterial(pictures, tint, this.plate.machine.lighting, answer));
      decal.mesh.receiveShadow = true;
      decal.mesh.renderOrder = order;
      decal.mesh.userData.decal = key;
      this.plate.stage.scene.add(decal.mesh);
    }
    this.plate.frames.draw();
  }
}
