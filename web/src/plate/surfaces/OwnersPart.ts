import * as THREE from 'three';
import { sentence, type Manifest, type PlanOf } from '../../api/client';
import { fetchPart } from '../../api/parts';
import { unpack, type Packet } from '../../api/packet';
import { layDown, somethingLies } from '../fallen';
import { geometryOf, steepApart } from '../geometry';
import { setExposure, setLayers, surfaceMaterial, type SurfaceMaterial } from '../materials';
import type { PlateContext } from '../PlateContext';
import type { PlatePart, Plans, Seen } from '../PlatePart';
import { MOST_LAYERS, USUAL_LAYERS } from '../surfaceShader';
import { views } from '../views';
import { coverTexture, disposeOwner, DRAFT, freshOwner, mapTexture, near, type OwnerView } from './owners';
import { layerOf } from './layer';
import { CoverPages } from './pages';

export type Patinas = Record<string, PlanOf<'patina'>>;

const only = <K extends 'patina' | 'piece'>(plans: Plans, kind: K) =>
  Object.fromEntries(Object.entries(plans).filter(([, plan]) => plan.kind === kind)) as Record<string, PlanOf<K>>;

/** Ground and pieces: their meshes, what they are made of, what lies on them and how wet they are. */
export class OwnersPart implements PlatePart {
  readonly owners = new Map<string, OwnerView>();
  private patinas: Patinas = {};
  /** What is laid like patinas without being items: the surfaces of the ground, and what gathers at feet. */
  private layers: Patinas = {};

  /** Finer covers near the eye. */
  readonly pages: CoverPages;

  constructor(private plate: PlateContext) {
    this.pages = new CoverPages(plate, this.owners);
  }

  groups() {
    return [...this.owners.values()].map((owner) => owner.group);
  }

  changing(key: string) {
    const on = [...this.owners].filter(([name, owner]) => name === key || owner.coverOrder.includes(key));
    return on.map(([, owner]) => owner.group);
  }

  applyView({ view, maskOf }: Seen) {
    for (const [key, owner] of this.owners) {
      if (!owner.mesh) continue;
      const own = owner.mesh.userData.materials as SurfaceMaterial[];
      owner.mesh.material = views[view].clay ? own.map(() => this.plate.stage.clay) : own;
      own.forEach(({ userData: { uniforms, keys } }) => {
        uniforms.uMaskLayer.value = maskOf ? ((keys ?? []) as string[]).indexOf(maskOf) : -1;
        // What stands is counted as seen from above: on the ground alone the count is true.
        uniforms.uDotted.value = key === 'ground' ? 1 : 0;
      });
    }
  }

  dispose() {
    this.owners.forEach(disposeOwner);
    this.pages.dispose();
  }

  /** What is before the eye within a few metres is made of, nearest first. */
  materialsNear(): string[] {
    const { eye } = this.plate;
    const found = near(this.owners, eye.frustum(), eye.camera.position);
    return [...new Set(found.flatMap(({ owner }) => owner.surfaces.map((surface) => surface.material)))];
  }

  ahead(manifest: Manifest) {
    const { store } = this.plate.stage;
    this.layers = manifest.layers as Patinas;
    const surfaces = manifest.owners.flatMap((owner) => owner.surfaces.filter((surface) => !surface.layer));
    const finishes = this.finishesInUse();
    return [
      ...[...new Set(surfaces.map((surface) => surface.material))].map((id) => store.get(id)),
      ...(finishes.length ? [store.finishArrays(finishes)] : []),
    ];
  }

  async sync(manifest: Manifest, plans: Plans) {
    const { stage, frames } = this.plate;
    const pieces = only(plans, 'piece');
    const present = new Set(manifest.owners.map((o) => o.owner));
    for (const [key, owner] of this.owners)
      if (!present.has(key)) {
        stage.scene.remove(owner.group);
        this.owners.delete(key);
        disposeOwner(owner);
        frames.contentChanged();
      }
    await Promise.all(manifest.owners.map((entry) => this.syncOwner(entry, pieces[entry.owner])));
    await this.fetchExposures();
  }

  /** The patinas as they are now, and what is laid like them. */
  takePlans(manifest: Manifest, plans: Plans) {
    this.layers = manifest.layers as Patinas;
    this.takePatinas({ ...this.layers, ...only(plans, 'patina') });
  }

  private finishesInUse(): string[] {
    return [
      ...new Set(
        Object.values(this.patinas)
          .filter((plan) => plan.uses?.length)
          .map((plan) => plan.finish.material),
      ),
    ];
  }

  /** Where a finish or the surfaces of a patina have changed, what carries it looks different. */
  private takePatinas(now: Patinas) {
    const before = this.patinas;
    this.patinas = now;
    const other = (id: string) => JSON.stringify(before[id]) !== JSON.stringify(now[id]);
    const ids = [...new Set([...Object.keys(before), ...Object.keys(now)])].filter(other);
    for (const owner of this.owners.values())
      if (owner.coverOrder.some((id) => ids.includes(id))) this.plate.frames.thingChanged(owner.group);
  }

  private async syncOwner(entry: Manifest['owners'][number], piece: PlanOf<'piece'> | undefined) {
    let owner = this.owners.get(entry.owner);
    if (!owner) {
      owner = freshOwner(entry.owner);
      this.owners.set(entry.owner, owner);
      this.plate.stage.scene.add(owner.group);
    }
    if (piece) {
      this.lifts.set(entry.owner, {
        ground_at: piece.ground_at,
        x: piece.position[0],
        z: piece.position[2],
        lift: entry.lift,
      });
      this.placePiece(entry.owner, piece);
    }
    const jobs: Promise<void>[] = [];
    const known = owner;
    owner.meshWanted = entry.mesh;
    if (owner.meshShown !== entry.mesh)
      jobs.push(
        fetchPart(entry.mesh).then((data) => {
          // An answer that was overtaken is none.
          if (known.meshWanted === entry.mesh) this.takeMesh(entry.owner, unpack(data), entry.mesh);
        }),
      );
    owner.coverWanted = entry.cover;
    if (owner.coverShown !== entry.cover) {
      if (entry.cover) jobs.push(this.fetchCovers(known, entry.cover));
      else {
        owner.covers?.dispose();
        owner.covers = null;
        owner.coverOrder = [];
        owner.coverShown = '';
      }
    }
    owner.exposureWanted = entry.exposure;
    if (jobs.length) this.plate.frames.shadowWanted = true;
    const surfaces = entry.surfaces.filter((surface) => !surface.layer);
    if (jobs.length || JSON.stringify(surfaces) !== JSON.stringify(owner.surfaces))
      this.plate.frames.thingChanged(owner.group);
    owner.surfaces = surfaces;
    await Promise.all(jobs);
    await this.dressOwner(entry.owner);
  }

  /** How far all that stands lies open to the sky: asked for when the weather is first not dry. */
  private async fetchExposures() {
    if (!somethingLies()) return;
    await Promise.all(
      [...this.owners.values()].map(async (owner) => {
        const address = owner.exposureWanted;
        if (!address || owner.exposureShown === address) return;
        const packet = unpack(await fetchPart(address));
        // An answer that was overtaken is none.
        if (owner.exposureWanted !== address) return;
        owner.exposure?.dispose();
        owner.exposure = mapTexture(packet, 'exposure');
        owner.exposureShown = address;
        this.openToSky(owner);
      }),
    );
  }

  private openToSky(owner: OwnerView) {
    const materials = owner.mesh?.userData.materials as SurfaceMaterial[] | undefined;
    materials?.forEach((material) => setExposure(material, owner.exposure));
  }

  /** All surfaces at once: nothing is worked out anew, they are only looked at otherwise. */
  async takeFallen(weather: PlanOf<'weather'>) {
    if (!layDown(weather)) return;
    this.plate.frames.redraw();
    await this.fetchExposures();
    this.plate.frames.redraw();
  }

  /** What cannot be worked out is said; all else goes on without it. */
  private async fetchCovers(owner: OwnerView, address: string) {
    try {
      const packet = unpack(await fetchPart(address));
      if (owner.coverWanted === address) this.takeCovers(packet, address);
    } catch (error) {
      this.plate.host.say(sentence(error));
    }
  }

  placePiece(key: string, piece: PlanOf<'piece'>) {
    const owner = this.owners.get(key);
    if (!owner) return;
    const { group } = owner;
    const before = group.matrix.clone();
    group.position.fromArray(piece.position ?? [0, 0, 0]);
    group.position.y += this.liftOf(key, piece);
    const r = THREE.MathUtils.degToRad;
    group.rotation.set(r(piece.tilt ?? 0), r(piece.turn ?? 0), r(piece.roll ?? 0), 'YXZ');
    group.scale.setScalar(piece.size ?? 1);
    group.updateMatrixWorld(true);
    const materials = owner.mesh?.userData.materials as SurfaceMaterial[] | undefined;
    materials?.forEach((m) => (m.userData.uniforms.uUvScale.value = piece.size ?? 1));
    if (group.matrix.equals(before)) return;
    this.plate.frames.shadowWanted = true;
    this.plate.frames.thingChanged(group);
  }

  private lifts = new Map<string, { ground_at: number | null; x: number; z: number; lift: number }>();

  /** How far a piece has risen with the ground since it was set down; nothing while it is being moved. */
  liftOf(key: string, piece: PlanOf<'piece'>): number {
    const known = this.lifts.get(key);
    const same =
      known && known.ground_at === piece.ground_at && known.x === piece.position[0] && known.z === piece.position[2];
    return same ? known.lift : 0;
  }

  /** Pieces ride on the ground while it is being shaped. */
  takeLifts(lifts: Record<string, number>) {
    const pieces = only(this.plate.host.site().plans, 'piece');
    for (const [key, lift] of Object.entries(lifts)) {
      const known = this.lifts.get(key);
      if (!known || known.lift === lift || !pieces[key]) continue;
      known.lift = lift;
      this.placePiece(key, pieces[key]);
    }
  }

  /** An owner's mesh: as it is saved, with its address, or as it would be, without. */
  takeMesh(key: string, packet: Packet, shown = DRAFT) {
    const owner = this.owners.get(key);
    const geometry = geometryOf(packet);
    if (!owner || !geometry) return;
    owner.meshShown = shown;
    if (key === 'ground') steepApart(geometry);
    if (owner.mesh) {
      owner.mesh.geometry.dispose();
      owner.mesh.geometry = geometry;
    } else {
      owner.mesh = new THREE.Mesh(geometry, this.plate.stage.clay);
      owner.mesh.castShadow = owner.mesh.receiveShadow = true;
      owner.mesh.userData = { owner: key, materials: [] };
      owner.group.add(owner.mesh);
    }
    owner.materialKey = '';
    this.plate.frames.contentChanged();
  }

  /** Covers of one or several owners, from a saved state or a preview. */
  takeCovers(packet: Packet, shown = DRAFT) {
    const order = packet.info.patinas as Record<string, string[]>;
    for (const [key, patinas] of Object.entries(order)) {
      const owner = this.owners.get(key);
      const shape = packet.shapes[key];
      if (!owner || !shape) continue;
      owner.covers?.dispose();
      owner.covers = shape[0] ? coverTexture(packet.arrays[key] as Uint8Array, shape) : null;
      owner.coverOrder = patinas;
      owner.coverShown = shown;
    }
  }

  /** Covers as they would be, of patinas as they are saved but for those given. */
  async takeCoverPreview(packet: Packet, drafts: Patinas = {}) {
    if (packet.info.layers) this.layers = packet.info.layers as Patinas;
    this.takePatinas({ ...this.layers, ...only(this.plate.host.site().plans, 'patina'), ...drafts });
    this.takeCovers(packet);
    const owners = Object.keys(packet.info.patinas as object);
    await Promise.all(owners.map((key) => this.dressOwner(key)));
    this.plate.frames.applyView();
    for (const key of owners) this.plate.frames.thingChanged(this.owners.get(key)?.group ?? this.plate.stage.scene);
  }

  /** Give an owner's surfaces their materials and patinas. */
  async dressOwner(key: string) {
    const owner = this.owners.get(key);
    if (!owner?.mesh) return;
    const carried = owner.surfaces.map((surface) =>
      owner.coverOrder.filter((id) =>
        this.patinas[id]?.uses?.some(
          (use) => use.surface === surface.ref || (key === 'ground' && use.surface.startsWith('ground/')),
        ),
      ),
    );
    // Of more than can be drawn those that lie lowest are left out, and that is said.
    owner.surfaces.forEach((surface, k) =>
      this.undrawn.set(surface.ref, carried[k].splice(0, Math.max(0, carried[k].length - MOST_LAYERS))),
    );
    this.tellUndrawn();
    const room = Math.max(...carried.map((ids) => ids.length), 0) > USUAL_LAYERS ? MOST_LAYERS : USUAL_LAYERS;
    const materialKey = JSON.stringify([
      owner.surfaces.map((s) => [this.plate.stage.store.address(s.material), s.answer]),
      room,
    ]);
    if (owner.materialKey !== materialKey) {
      const pictures = await Promise.all(owner.surfaces.map((s) => this.plate.stage.store.get(s.material)));
      const old = owner.mesh.userData.materials as SurfaceMaterial[];
      const ownBase = Boolean(owner.mesh.geometry.getAttribute('baseUv'));
      const coloured = Boolean(owner.mesh.geometry.getAttribute('color'));
      const materials = pictures.map((p, k) =>
        surfaceMaterial(
          p,
          { layers: room, ownBase: ownBase && p.tile <= 0, coloured, answer: owner.surfaces[k].answer },
          this.plate.machine.lighting,
        ),
      );
      if (key === 'ground')
        materials.push(surfaceMaterial(pictures[0], { layers: room, steep: true }, this.plate.machine.lighting));
      owner.mesh.userData.materials = materials;
      owner.mesh.material = owner.mesh.userData.materials;
      old.forEach((m) => m.dispose());
      owner.materialKey = materialKey;
    }
    this.openToSky(owner);
    const arrays = carried.some((ids) => ids.length)
      ? await this.plate.stage.store.finishArrays(this.finishesInUse())
      : null;
    (owner.mesh.userData.materials as SurfaceMaterial[]).forEach((material, n) => {
      // Steep ground is a part of the ground's surface.
      const slot = key === 'ground' ? 0 : n;
      const layers = arrays
        ? carried[slot].map((id) =>
            layerOf(id, this.patinas[id].finish, owner.coverOrder.indexOf(id), arrays.ids, this.plate.stage.store),
          )
        : [];
      material.userData.keys = carried[slot];
      material.userData.uniforms.uUvScale.value = owner.group.scale.x;
      setLayers(material, layers, owner.covers, arrays);
    });
    this.pages.lay(key);
  }

  private undrawn = new Map<string, string[]>();

  private tellUndrawn() {
    const found: Record<string, string[]> = {};
    for (const [ref, ids] of this.undrawn) for (const id of ids) (found[id] ??= []).push(ref);
    this.plate.host.undrawn(found);
  }

  /** Surfaces that still read finishes from arrays which newer ones have replaced get the newer ones; then the old go. */
  async synced() {
    const { store } = this.plate.stage;
    store.dropUnnamed();
    if (!store.outdated) return;
    await Promise.all([...this.owners.keys()].map((key) => this.dressOwner(key)));
    store.dropOutdated();
  }
}
