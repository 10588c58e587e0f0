import * as THREE from 'three';
import type { Manifest } from '../../api/client';
import { fetchPart } from '../../api/parts';
import { unpack, type Packet } from '../../api/packet';
import { clearMaterial } from '../../plate/clear';
import { leafMaterial } from '../../plate/materials';
import { geometryOf } from '../../plate/geometry';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';

type Stuff = Manifest['bodies'][number]['stuff'];
type Clear = Exclude<Stuff, 'leaves'>;

/** Index of refraction, and how much of what is behind them thick bodies hide. */
const LOOK: Record<Clear, [number, number]> = { ice: [1.31, 0.6], water: [1.333, 0.4] };

interface Wanted {
  owner: string;
  stuff: Stuff;
  url: string;
  /** Metres of radius of droplets that are drawn as a film where they are seen smaller than a pixel. */
  size?: number;
}

interface BodyView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh | null;
}

/** Icicles, drops and beads, and leaves that float: meshes that go along with what carries them. */
export class BodiesPart implements PlatePart {
  readonly upon = true;
  private bodies = new Map<string, BodyView>();
  private materials = new Map<string, THREE.Material>();

  constructor(private plate: PlateContext) {}

  overlays() {
    return [...this.bodies.values()].flatMap(({ mesh }) => mesh ?? []);
  }

  applyView({ view }: Seen) {
    for (const mesh of this.overlays()) mesh.visible = view === 'lit' || views[view].decals;
  }

  async sync(manifest: Manifest) {
    const wanted = new Map<string, Wanted>([
      ...manifest.bodies.map((body) => [`${body.stuff} ${body.owner}`, body] as const),
      ...manifest.beads.map((bead) => [`${bead.key}.${bead.owner}`, { ...bead, stuff: 'water' as Stuff }] as const),
    ]);
    for (const [key, body] of this.bodies)
      if (!wanted.has(key)) {
        this.drop(body);
        this.bodies.delete(key);
        this.plate.frames.contentChanged();
      }
    await Promise.all([...wanted].map(([key, body]) => this.fetch(key, body)));
  }

  private async fetch(key: string, { owner, stuff, url, size }: Wanted) {
    const body = this.bodies.get(key) ?? { wanted: '', shown: '', mesh: null };
    this.bodies.set(key, body);
    body.wanted = url;
    if (body.shown === url) return;
    const packet = unpack(await fetchPart(url));
    // An answer that was overtaken is none.
    if (body.wanted !== url || this.bodies.get(key) !== body) return;
    if (stuff === 'leaves') {
      const materials = await this.leafMaterials(packet);
      if (body.wanted !== url || this.bodies.get(key) !== body) return materials.forEach((made) => made.dispose());
      this.put(key, owner, geometryOf(packet, true), materials);
    } else this.take(key, owner, stuff, packet, size);
    body.shown = url;
  }

  /** A mesh in place of what is there under a key, as it is saved or as it would be. */
  take(key: string, owner: string, stuff: Clear, packet: Packet, size = 0) {
    const geometry = geometryOf(packet);
    geometry?.clearGroups();
    this.put(key, owner, geometry, this.material(stuff, size));
  }

  /** Its slots are materials. */
  private leafMaterials(packet: Packet) {
    const { store } = this.plate.stage;
    const slots = (packet.info.slots ?? []) as string[];
    return Promise.all(slots.map(async (id) => leafMaterial(await store.cutOut(id), this.plate.machine.lighting, 1)));
  }

  private put(
    key: string,
    owner: string,
    geometry: THREE.BufferGeometry | null,
    material: THREE.Material | THREE.Material[],
  ) {
    const body = this.bodies.get(key) ?? { wanted: '', shown: '', mesh: null };
    this.bodies.set(key, body);
    this.drop(body);
    const carrier = this.plate.owners.get(owner)?.group;
    if (geometry && carrier) {
      body.mesh = new THREE.Mesh(geometry, material);
      // It comes in the site's coordinates.
      carrier.updateMatrixWorld(true);
      carrier.attach(body.mesh);
    }
    this.plate.frames.contentChanged();
  }

  private material(stuff: Clear, size: number) {
    const known = `${stuff} ${size}`;
    const made = this.materials.get(known) ?? clearMaterial(this.plate.stage.mirrored, ...LOOK[stuff], size);
    this.materials.set(known, made);
    return made;
  }

  dispose() {
    this.bodies.forEach((body) => this.drop(body));
    this.materials.forEach((material) => material.dispose());
  }

  private drop(body: BodyView) {
    body.mesh?.removeFromParent();
    body.mesh?.geometry.dispose();
    // Those of clear bodies are shared, leaves have their own.
    if (Array.isArray(body.mesh?.material)) body.mesh.material.forEach((material) => material.dispose());
    body.mesh = null;
    body.shown = '';
  }
}
