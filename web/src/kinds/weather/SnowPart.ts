import * as THREE from 'three';
import type { Manifest, PlanOf } from '../../api/client';
import { fetchPart } from '../../api/parts';
import { unpack, type Packet } from '../../api/packet';
import { geometryOf } from '../../plate/geometry';
import { surfaceMaterial, type SurfaceMaterial } from '../../plate/materials';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';

/** What a cover of snow is made of. */
const MATERIAL = 'fresh_snow';

interface SnowView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh | null;
}

/** Snow that lies: a mesh on every owner, which sinks and rises with the depth while that is being changed. */
export class SnowPart implements PlatePart {
  readonly upon = true;
  private covers = new Map<string, SnowView>();
  private material: SurfaceMaterial | null = null;
  /** Metres of snow the meshes were made for, and that lie now. */
  private made = 0;
  private now = 0;

  constructor(private plate: PlateContext) {}

  private get meshes() {
    return [...this.covers.values()].flatMap(({ mesh }) => mesh ?? []);
  }

  applyView({ view }: Seen) {
    const seen = view === 'lit' || view === 'colour' || views[view].clay;
    for (const mesh of this.meshes) {
      mesh.visible = seen && this.now > 0;
      mesh.material = views[view].clay || !this.material ? this.plate.stage.clay : this.material;
    }
  }

  /** As much as lies now, of what the meshes were made for. */
  takeDepth({ snow, melted }: PlanOf<'weather'>) {
    const now = Math.max(0, snow - melted) / 100;
    if (now === this.now) return;
    this.now = now;
    this.lift();
  }

  private lift() {
    const lift = this.material?.userData.uniforms.uLift;
    if (lift) lift.value = this.made > 0 ? this.now / this.made : 0;
    this.plate.frames.applyView();
  }

  dispose() {
    this.covers.forEach((cover) => this.drop(cover));
    this.material?.dispose();
  }

  ahead(manifest: Manifest) {
    return manifest.snow.length ? [this.plate.stage.store.get(MATERIAL)] : [];
  }

  async sync(manifest: Manifest) {
    const wanted = new Map(manifest.snow.map(({ owner, url }) => [owner, url]));
    for (const [owner, cover] of this.covers)
      if (!wanted.has(owner)) {
        this.drop(cover);
        this.covers.delete(owner);
        this.plate.frames.shadowWanted = true;
      }
    if (!wanted.size) return;
    this.made = this.now;
    if (!this.material) {
      const pictures = await this.plate.stage.store.get(MATERIAL);
      this.material ??= surfaceMaterial(pictures, { layers: 0, fallen: true }, this.plate.machine.lighting);
    }
    await Promise.all([...wanted].map(([owner, url]) => this.fetch(owner, url)));
    this.lift();
  }

  private async fetch(owner: string, url: string) {
    const cover = this.covers.get(owner) ?? { wanted: '', shown: '', mesh: null };
    this.covers.set(owner, cover);
    cover.wanted = url;
    if (cover.shown === url) return;
    const packet = unpack(await fetchPart(url));
    // An answer that was overtaken is none.
    if (cover.wanted !== url || this.covers.get(owner) !== cover) return;
    this.take(owner, cover, packet);
    cover.shown = url;
    this.plate.frames.shadowWanted = true;
    this.plate.frames.contentChanged();
  }

  private take(owner: string, cover: SnowView, packet: Packet) {
    this.drop(cover);
    const geometry = geometryOf(packet);
    const carrier = this.plate.owners.get(owner)?.group;
    if (!geometry || !carrier) return;
    geometry.clearGroups();
    geometry.setAttribute('lift', new THREE.BufferAttribute(packet.arrays.lift as Float32Array, 1));
    const mesh = new THREE.Mesh(geometry, this.material ?? this.plate.stage.clay);
    mesh.castShadow = mesh.receiveShadow = true;
    // It comes in the site's coordinates and goes along with what carries it.
    carrier.updateMatrixWorld(true);
    carrier.attach(mesh);
    cover.mesh = mesh;
  }

  private drop(cover: SnowView) {
    cover.mesh?.removeFromParent();
    cover.mesh?.geometry.dispose();
    cover.mesh = null;
    cover.shown = '';
  }
}
