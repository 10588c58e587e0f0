import * as THREE from 'three';
import { sentence, type Manifest, type PlanOf } from '../api/client';
import { fetchPart } from '../api/parts';
import { unpack, type Packet } from '../api/packet';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { geometryOf, steepApart } from './geometry';
import {
  decalMaterial,
  setExposure,
  setLayers,
  surfaceMaterial,
  weather,
  type Layer,
  type SurfaceMaterial,
} from './materials';
import { disposeOwner, DRAFT, freshOwner, type OwnerView } from './owners';
import { PlateDrifts } from './PlateDrifts';
import { disposeDecal, type DecalView, type Patinas } from './PlateStage';
import { skyOf } from './sky';
import { MOST_LAYERS, USUAL_LAYERS } from './surfaceShader';
import { setWind } from './windShader';

const HAZE = 0.012;
/** Ground and structures wait so long for the plants, milliseconds. */
const PATIENCE = 700;
const later = (ms: number) => new Promise<void>((told) => window.setTimeout(told, ms));

/** What is drawn: fetches what changed since the last manifest, and takes previews. */
export abstract class PlateContent extends PlateDrifts {
  async setLight(url: string, light: PlanOf<'light'>) {
    const exposure = 2 ** (light.exposure ?? 0);
    // Three's exponential-squared fog stands in for the proof's exponential haze at the distances of a site.
    const fog = HAZE * (light.haze ?? 0) ** 2 * 0.9;
    if (exposure !== this.renderer.toneMappingExposure || fog !== this.fog.density) this.redraw();
    this.renderer.toneMappingExposure = exposure;
    this.fog.density = fog;
    if (url !== this.skyUrl) {
      this.skyUrl = url;
      this.takeSky(unpack(await fetchPart(url)));
    }
  }

  takeSky(packet: Packet) {
    const sky = skyOf(packet);
    if (this.software) {
      this.ambient.sh.copy(sky.ambient);
    } else {
      const pmrem = new THREE.PMREMGenerator(this.renderer);
      this.scene.environment?.dispose();
      this.scene.environment = pmrem.fromEquirectangular(sky.background).texture;
      pmrem.dispose();
    }
    this.dome.material.map?.dispose();
    this.dome.material.map = sky.background;
    this.renderer.initTexture(sky.background);
    this.dome.material.needsUpdate = true;
    this.sunDirection.copy(sky.sun);
    this.sun.color.copy(sky.sunColour);
    this.sun.intensity = 1;
    this.fog.color.copy(sky.haze);
    this.applyView();
    this.contentChanged();
  }

  /** Fetch and show whatever changed since the last manifest. */
  async sync(
    manifest: Manifest,
    light: PlanOf<'light'>,
    pieces: Record<string, PlanOf<'piece'>>,
    patinas: Patinas,
    drifts: Record<string, PlanOf<'drift'>>,
  ) {
    this.layers = manifest.layers as Patinas;
    this.takePatinas({ ...this.layers, ...patinas });
    this.store.setInfos(manifest.materials);
    // One picture when all is there, not one for every part that arrives.
    await this.together(() =>
      Promise.all([this.setLight(manifest.sky, light), this.syncAll(manifest, pieces, drifts)]),
    );
    if (this.shown) void this.sharpen();
  }

  /** Ask at once for all that will be needed, so that nothing waits to be known by what comes before it. */
  private fetchAhead(manifest: Manifest, drifts: Record<string, PlanOf<'drift'>>) {
    const surfaces = manifest.owners.flatMap((owner) => owner.surfaces.filter((surface) => !surface.layer));
    const assets = manifest.drifts.flatMap(({ key }) => drifts[key]?.assets.map((share) => share.asset) ?? []);
    const finishes = this.finishesInUse();
    const asked: Promise<unknown>[] = [
      ...[...new Set(surfaces.map((surface) => surface.material))].map((id) => this.store.get(id)),
      ...(finishes.length ? [this.store.finishArrays(finishes)] : []),
      ...[...new Set(assets)].map((id) => this.assetView(id)),
      ...manifest.decals.map((decal) => this.store.get(decal.picture)),
    ];
    // What does not come is said by who needs it.
    asked.forEach((one) => one.catch(() => undefined));
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
      if (owner.coverOrder.some((id) => ids.includes(id))) this.thingChanged(owner.group);
  }

  protected async syncAll(
    manifest: Manifest,
    pieces: Record<string, PlanOf<'piece'>>,
    plans: Record<string, PlanOf<'drift'>>,
  ) {
    this.fetchAhead(manifest, plans);
    if (this.opening && this.software) void this.rehearse();
    const present = new Set(manifest.owners.map((o) => o.owner));
    for (const [key, owner] of this.owners)
      if (!present.has(key)) {
        this.scene.remove(owner.group);
        this.owners.delete(key);
        disposeOwner(owner);
        this.contentChanged();
      }
    const rest = Promise.all([this.syncDrifts(manifest, plans), this.syncDecals(manifest)]);
    await Promise.all(manifest.owners.map((entry) => this.syncOwner(entry, pieces[entry.owner])));
    await this.fetchExposures();
    if (this.opening && (await Promise.race([rest, later(PATIENCE)])) === undefined) {
      // Ground and structures first, where plants are long in coming.
      this.applyView();
      this.render();
    }
    await rest;
    await this.dressAnew();
    this.opening = false;
    this.applyView();
  }

  protected async syncOwner(entry: Manifest['owners'][number], piece: PlanOf<'piece'> | undefined) {
    let owner = this.owners.get(entry.owner);
    if (!owner) {
      owner = freshOwner(entry.owner);
      this.owners.set(entry.owner, owner);
      this.scene.add(owner.group);
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
    if (jobs.length) this.shadowWanted = true;
    const surfaces = entry.surfaces.filter((surface) => !surface.layer);
    if (jobs.length || JSON.stringify(surfaces) !== JSON.stringify(owner.surfaces)) this.thingChanged(owner.group);
    owner.surfaces = surfaces;
    await Promise.all(jobs);
    await this.dressOwner(entry.owner);
  }

  /** How far all that stands lies open to the sky: asked for when the weather is first not dry. */
  protected async fetchExposures() {
    if (weather.wetness.value <= 0) return;
    await Promise.all(
      [...this.owners.values()].map(async (owner) => {
        const address = owner.exposureWanted;
        if (!address || owner.exposureShown === address) return;
        const packet = unpack(await fetchPart(address));
        // An answer that was overtaken is none.
        if (owner.exposureWanted !== address) return;
        owner.exposure?.dispose();
        const [height, width] = packet.shapes.exposure;
        const texture = new THREE.DataTexture(
          new Uint8Array(packet.arrays.exposure as Uint8Array),
          width,
          height,
          THREE.RedFormat,
        );
        texture.minFilter = texture.magFilter = THREE.LinearFilter;
        texture.unpackAlignment = 1;
        texture.needsUpdate = true;
        owner.exposure = texture;
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
  async takeWetness(wetness: number) {
    if (weather.wetness.value === wetness) return;
    weather.wetness.value = wetness;
    this.redraw();
    await this.fetchExposures();
    this.redraw();
  }

  /** What cannot be worked out is said; all else goes on without it. */
  private async fetchCovers(owner: OwnerView, address: string) {
    try {
      const packet = unpack(await fetchPart(address));
      if (owner.coverWanted === address) this.takeCovers(packet, address);
    } catch (error) {
      useSite.getState().say(sentence(error));
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
    this.shadowWanted = true;
    this.thingChanged(group);
  }

  protected lifts = new Map<string, { ground_at: number | null; x: number; z: number; lift: number }>();

  /** How far a piece has risen with the ground since it was set down; nothing while it is being moved. */
  liftOf(key: string, piece: PlanOf<'piece'>): number {
    const known = this.lifts.get(key);
    const same =
      known && known.ground_at === piece.ground_at && known.x === piece.position[0] && known.z === piece.position[2];
    return same ? known.lift : 0;
  }

  /** Pieces ride on the ground while it is being shaped. */
  takeLifts(lifts: Record<string, number>, pieces: Record<string, PlanOf<'piece'>>) {
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
      owner.mesh = new THREE.Mesh(geometry, this.clay);
      owner.mesh.castShadow = owner.mesh.receiveShadow = true;
      owner.mesh.userData = { owner: key, materials: [] };
      owner.group.add(owner.mesh);
    }
    owner.materialKey = '';
    this.contentChanged();
  }

  /** Covers of one or several owners, from a saved state or a preview. */
  takeCovers(packet: Packet, shown = DRAFT) {
    const order = packet.info.patinas as Record<string, string[]>;
    for (const [key, patinas] of Object.entries(order)) {
      const owner = this.owners.get(key);
      const shape = packet.shapes[key];
      if (!owner || !shape) continue;
      owner.covers?.dispose();
      const [layers, height, width] = shape;
      const texture = new THREE.DataArrayTexture(
        new Uint8Array(packet.arrays[key] as Uint8Array),
        width,
        height,
        Math.max(1, layers),
      );
      texture.format = THREE.RedFormat;
      texture.minFilter = texture.magFilter = THREE.LinearFilter;
      texture.unpackAlignment = 1;
      texture.needsUpdate = true;
      owner.covers = layers ? texture : null;
      owner.coverOrder = patinas;
      owner.coverShown = shown;
    }
  }

  async takeCoverPreview(packet: Packet, patinas: Patinas) {
    if (packet.info.layers) this.layers = packet.info.layers as Patinas;
    this.takePatinas({ ...this.layers, ...patinas });
    this.takeCovers(packet);
    const owners = Object.keys(packet.info.patinas as object);
    await Promise.all(owners.map((key) => this.dressOwner(key)));
    this.applyView();
    for (const key of owners) this.thingChanged(this.owners.get(key)?.group ?? this.scene);
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
    const materialKey = JSON.stringify([owner.surfaces.map((s) => this.store.address(s.material)), room]);
    if (owner.materialKey !== materialKey) {
      const pictures = await Promise.all(owner.surfaces.map((s) => this.store.get(s.material)));
      const old = owner.mesh.userData.materials as SurfaceMaterial[];
      const ownBase = Boolean(owner.mesh.geometry.getAttribute('baseUv'));
      const materials = pictures.map((p) =>
        surfaceMaterial(p, { layers: room, ownBase: ownBase && p.tile <= 0 }, this.lighting),
      );
      if (key === 'ground') materials.push(surfaceMaterial(pictures[0], { layers: room, steep: true }, this.lighting));
      owner.mesh.userData.materials = materials;
      owner.mesh.material = owner.mesh.userData.materials;
      old.forEach((m) => m.dispose());
      owner.materialKey = materialKey;
    }
    this.openToSky(owner);
    const arrays = carried.some((ids) => ids.length) ? await this.store.finishArrays(this.finishesInUse()) : null;
    (owner.mesh.userData.materials as SurfaceMaterial[]).forEach((material, n) => {
      // Steep ground is a part of the ground's surface.
      const slot = key === 'ground' ? 0 : n;
      const layers = arrays ? carried[slot].map((id) => this.layer(id, owner.coverOrder.indexOf(id), arrays.ids)) : [];
      material.userData.keys = carried[slot];
      material.userData.uniforms.uUvScale.value = owner.group.scale.x;
      setLayers(material, layers, owner.covers, arrays);
    });
  }

  private undrawn = new Map<string, string[]>();

  private tellUndrawn() {
    const found: Record<string, string[]> = {};
    for (const [ref, ids] of this.undrawn) for (const id of ids) (found[id] ??= []).push(ref);
    if (JSON.stringify(found) !== JSON.stringify(useBench.getState().undrawn))
      useBench.getState().set({ undrawn: found });
  }

  /** Surfaces that still read finishes from arrays which newer ones have replaced get the newer ones; then the old go. */
  private async dressAnew() {
    this.store.dropUnnamed();
    if (!this.store.outdated) return;
    await Promise.all([...this.owners.keys()].map((key) => this.dressOwner(key)));
    this.store.dropOutdated();
  }

  protected layer(id: string, cover: number, ids: string[]): Layer {
    const finish = this.patinas[id].finish;
    const material = finish.material;
    return {
      key: id,
      cover,
      finish: ids.indexOf(material),
      tile: this.store.finishTile(material) * finish.scale,
      variationTile: 4 * finish.variation_size,
      tint: new THREE.Color(finish.tint),
      variation: finish.variation,
      roughness: finish.roughness,
      relief: finish.relief,
      breakUp: finish.break_up,
      stain: finish.stain,
      depth: this.store.info(material).depth * finish.relief,
      thickness: finish.thickness / 1000,
      fill: finish.fill,
    };
  }

  takeWeather(plan: PlanOf<'weather'>, time?: number) {
    setWind(plan, time);
    this.takeWetness(plan.wetness).catch((error) => useSite.getState().say(sentence(error)));
    // Shadows go along; where each takes a second they wait until the wind is held.
    if (time === undefined || !this.software) this.shadowWanted = true;
    this.redraw();
  }

  protected async syncDecals(manifest: Manifest) {
    const present = new Set(manifest.decals.map((d) => d.key));
    for (const [key, decal] of this.decals)
      if (!present.has(key)) {
        if (decal.mesh) this.scene.remove(decal.mesh);
        disposeDecal(decal);
        this.decals.delete(key);
      }
    await Promise.all(
      manifest.decals.map(async (entry, order) => {
        const decal = this.decalView(entry.key);
        const wanted = `${entry.url} ${entry.picture} ${entry.tint}`;
        decal.wanted = wanted;
        if (decal.shown !== wanted) {
          const packet = unpack(await fetchPart(entry.url));
          if (decal.wanted === wanted) await this.takeDecal(entry.key, packet, entry.picture, entry.tint, wanted);
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
  async takeDecal(key: string, packet: Packet, picture: string, tint: string, shown = DRAFT) {
    const pictures = await this.store.get(picture);
    const geometry = geometryOf(packet);
    const decal = this.decalView(key);
    const order = decal.mesh?.renderOrder ?? 1;
    if (decal.mesh) this.scene.remove(decal.mesh);
    disposeDecal(decal);
    decal.mesh = null;
    decal.shown = shown;
    if (geometry) {
      decal.mesh = new THREE.Mesh(geometry, decalMaterial(pictures, tint, this.lighting));
      decal.mesh.receiveShadow = true;
      decal.mesh.renderOrder = order;
      decal.mesh.userData.decal = key;
      this.scene.add(decal.mesh);
    }
    this.draw();
  }
}
