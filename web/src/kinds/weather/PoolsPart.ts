import * as THREE from 'three';
import type { Manifest, PlanOf } from '../../api/client';
import { fetchPart } from '../../api/parts';
import { unpack } from '../../api/packet';
import { geometryOf } from '../../plate/geometry';
import { setDamp, type SurfaceMaterial } from '../../plate/materials';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';
import { waterMaterial } from '../../plate/water';
import { mapTexture } from '../../plate/surfaces/owners';

interface PoolView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh | null;
  damp: THREE.DataTexture | null;
}

/** Standing water: its surface on every owner, and how wet that and water that runs down make things. */
export class PoolsPart implements PlatePart {
  readonly upon = true;
  private pools = new Map<string, PoolView>();
  private material: THREE.Material | null = null;
  private standing = 0;
  private damp = false;
  /** Is there still water, whose shore is wet in any weather? */
  private always = false;

  constructor(private plate: PlateContext) {}

  overlays() {
    return [...this.pools.values()].flatMap(({ mesh }) => mesh ?? []);
  }

  applyView({ view }: Seen) {
    for (const mesh of this.overlays()) mesh.visible = this.standing > 0 && (view === 'lit' || views[view].decals);
  }

  /** Pools of other amounts come when the change is kept; where there is none any more, none shows. */
  takeStanding({ standing, wetness, dried }: PlanOf<'weather'>) {
    const wet = this.always || standing > 0 || wetness > dried;
    if (this.standing > 0 === standing > 0 && this.damp === wet) return;
    this.standing = standing;
    this.damp = wet;
    this.wet();
    this.plate.frames.applyView();
  }

  dispose() {
    this.pools.forEach((pool) => this.drop(pool));
    this.material?.dispose();
  }

  async sync(manifest: Manifest) {
    this.always = manifest.waters.length > 0;
    this.damp ||= this.always;
    const wanted = new Map(manifest.pools.map((pool) => [pool.owner, pool]));
    for (const [owner, pool] of this.pools)
      if (!wanted.has(owner)) {
        this.drop(pool);
        this.pools.delete(owner);
      }
    await Promise.all([...wanted].map(([owner, { url, damp }]) => this.fetch(owner, url, damp)));
    this.wet();
  }

  private async fetch(owner: string, url: string, damp: string) {
    const pool = this.pools.get(owner) ?? { wanted: '', shown: '', mesh: null, damp: null };
    this.pools.set(owner, pool);
    // Without standing water the surface is the same whatever the weather, and how wet it is changes all the same.
    const wanted = `${url} ${damp}`;
    pool.wanted = wanted;
    if (pool.shown === wanted) return;
    const [surface, halo] = (await Promise.all([fetchPart(url), fetchPart(damp)])).map(unpack);
    // An answer that was overtaken is none.
    if (pool.wanted !== wanted || this.pools.get(owner) !== pool) return;
    this.drop(pool);
    pool.shown = wanted;
    pool.damp = mapTexture(halo, 'damp');
    const geometry = geometryOf(surface);
    const carrier = this.plate.owners.get(owner)?.group;
    if (geometry && carrier) {
      geometry.clearGroups();
      this.material ??= waterMaterial(this.plate.stage.mirrored);
      pool.mesh = new THREE.Mesh(geometry, this.material);
      carrier.updateMatrixWorld(true);
      carrier.attach(pool.mesh);
    }
    this.plate.frames.contentChanged();
  }

  /** Surfaces are told how wet the pools on them make them. */
  private wet() {
    for (const [owner, { mesh }] of this.plate.owners) {
      const damp = this.damp ? (this.pools.get(owner)?.damp ?? null) : null;
      (mesh?.userData.materials as SurfaceMaterial[] | undefined)?.forEach((material) => setDamp(material, damp));
    }
  }

  private drop(pool: PoolView) {
    pool.mesh?.removeFromParent();
    pool.mesh?.geometry.dispose();
    pool.damp?.dispose();
    pool.mesh = pool.damp = null;
    pool.shown = '';
  }
}
