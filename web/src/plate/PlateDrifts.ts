import * as THREE from 'three';
import { sentence, type Asset, type Manifest, type PlanOf } from '../api/client';
import { unpack, type Packet } from '../api/packet';
import { fetchPart } from '../api/parts';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { disposePart, forProcessor, type DriftView, type Level } from './drifts';
import { geometryOf, partsOf } from './geometry';
import { bentShadow, leafMaterial, surfaceMaterial } from './materials';
import { PlateView } from './PlateView';
import { disposePlot, plotOf, plotsIn, type Plot, type PlotEntry } from './plots';

/** So many instances are fetched at a time: about 1.5 MB. */
const A_TIME = 64_000;
/** The picture is not shown before so many of the nearest are there; the rest comes while one works. */
const FIRST = 200_000;
/** Higher than anything that is scattered, metres. */
const TALL = 30;
const BEHIND = 10_000;

/** What stands of the drifts: their plots, the nearest fetched first, and the assets they are made of. */
export abstract class PlateDrifts extends PlateView {
  setAssets(list: Asset[]) {
    for (const asset of list) this.assetList.set(asset.id, this.software ? forProcessor(asset) : asset);
  }

  protected async syncDrifts(manifest: Manifest, plans: Record<string, PlanOf<'drift'>>) {
    const present = new Set(manifest.drifts.map((d) => d.key));
    for (const [key, drift] of this.drifts)
      if (!present.has(key)) {
        drift.plots.forEach(disposePlot);
        this.scene.remove(drift.group);
        this.drifts.delete(key);
        this.contentChanged();
      }
    await Promise.all(
      manifest.drifts.map(async ({ key, url }) => {
        this.wantedDrifts.set(key, url);
        if (this.drifts.get(key)?.url === url) return;
        const packet = unpack(await fetchPart(url));
        // An answer that was overtaken is none.
        if (this.wantedDrifts.get(key) === url) await this.takeDrift(key, packet, plans[key]?.tier ?? 'cover', url);
      }),
    );
    await this.syncGrasses(manifest.own);
    await this.fetchNearest(FIRST);
    void this.fetchRest();
    // Finer levels that a lost connection kept back may be asked for again.
    for (const view of this.assetViews.values()) view.levels.forEach((level, k) => level ?? view.asked.delete(k));
  }

  private wantedDrifts = new Map<string, string>();

  /** A drift as it is saved, with its address, or as it would be, without. */
  async takeDrift(key: string, packet: Packet, tier: string, url = '') {
    const assets = packet.info.assets as string[];
    await Promise.all(assets.map((id) => this.assetView(id)));
    let drift = this.drifts.get(key);
    if (!drift) {
      drift = { key, tier, assets, count: 0, plots: new Map(), wanted: [], group: new THREE.Group(), url };
      this.drifts.set(key, drift);
      this.scene.add(drift.group);
    }
    const wanted = packet.info.plots as PlotEntry[];
    const cells = new Set(wanted.map((entry) => entry.cell));
    for (const cell of [...drift.plots.keys()]) if (!cells.has(cell)) this.drop(drift.plots, cell);
    Object.assign(drift, { assets, tier, url, wanted: url ? wanted : [], count: packet.info.count });
    plotsIn(packet).forEach((plot) => this.takePlot(drift, plot));
    if (tier === 'canopy' || tier === 'shrub') this.shadowWanted = true;
    this.thingChanged(drift.group);
  }

  private takePlot(drift: DriftView, plot: Plot) {
    this.drop(drift.plots, plot.cell);
    drift.plots.set(plot.cell, plot);
    if (this.inView(plot)) this.thingChanged(drift.group);
    else this.arrangeWanted = true;
  }

  private around = new THREE.Box3();

  /** May what stands on a plot be seen, or its shadow? */
  private inView({ low, high }: PlotEntry): boolean {
    this.around.min.set(...low);
    this.around.max.set(...high);
    return this.frustum().intersectsBox(this.around.expandByScalar(TALL));
  }

  private drop(plots: Map<string, Plot>, cell: string) {
    const plot = plots.get(cell);
    if (plot) disposePlot(plot);
    plots.delete(cell);
  }

  /** Metres to a plot; what lies behind the eye counts as farther than all it sees. */
  private order(entry: PlotEntry): number {
    const seen = this.inView(entry);
    this.around.min.set(...entry.low);
    this.around.max.set(...entry.high);
    return this.around.distanceToPoint(this.camera.position) + (seen ? 0 : BEHIND);
  }

  /** Plots that are not there yet or have changed since, the nearest to the eye first. */
  private missing() {
    const found = [...this.drifts.values()].flatMap((drift) =>
      drift.wanted
        .filter((entry) => drift.plots.get(entry.cell)?.v !== entry.v)
        .map((entry) => ({ drift, entry, order: this.order(entry) })),
    );
    return found.sort((a, b) => a.order - b.order);
  }

  /** Fetch the nearest missing plots, until some number of instances has come. Returns how many are still missing. */
  private async fetchNearest(most: number): Promise<number> {
    for (let come = 0; come < most;) {
      const now = this.missing();
      let count = 0;
      const some = now.filter(
        ({ entry }, k) => (k === 0 || count + entry.count <= A_TIME) && (count += entry.count) > 0,
      );
      if (!some.length) break;
      await Promise.all(
        some.map(async ({ drift, entry }) => {
          const address = drift.url.replace(/\?.*/, `/plots/${entry.cell}?v=${entry.v}`);
          const plot = plotOf(entry, new Uint8Array(await fetchPart(address)));
          // The drift may have changed on the way.
          if (drift.wanted.includes(entry)) this.takePlot(drift, plot);
        }),
      );
      come += count;
    }
    return this.missing().length;
  }

  private resting = false;

  /** What is farther off comes a little at a time, with a picture between. */
  private async fetchRest() {
    if (this.resting) return;
    this.resting = true;
    try {
      await this.drawnNext();
      while (!this.disposed && (await this.fetchNearest(1))) if (this.scheduled) await this.drawnNext();
    } catch (error) {
      // Asked for again with the next change.
      useSite.getState().say(sentence(error));
    }
    this.resting = false;
  }

  private drafted = 0;

  /** A grass as it would be: its tufts in place of those that stand. */
  async takeGrass(item: string, packet: Packet) {
    const tufts = (packet.info.own as string[]).filter((id) => this.assetViews.has(id));
    const levelled = await Promise.all(
      (packet.info.own as string[]).map(async (id) => {
        const packets = Object.keys(packet.arrays)
          .filter((name) => name.startsWith(`${id}/`))
          .map((name) => unpack((packet.arrays[name] as Uint8Array).slice().buffer));
        if (tufts.includes(id))
          this.showAsset(
            id,
            `draft ${++this.drafted}`,
            await Promise.all(packets.map((one) => this.levelOf(this.assetList.get(id)!, one))),
          );
        return packets[0];
      }),
    );
    useBench.getState().set({ tufts: { item, levels: levelled } });
    this.assetsChanged(tufts);
  }

  private assetsChanged(ids: string[]) {
    for (const drift of this.drifts.values())
      if (drift.assets.some((id) => ids.includes(id))) this.thingChanged(drift.group);
  }

  /** Grasses of the site whose settings have changed, or were only tried. */
  private async syncGrasses(own: Asset[]) {
    const shown = own.map(({ id }) => id).filter((id) => this.assetViews.has(id));
    const before = shown.map((id) => this.assetViews.get(id));
    await Promise.all(shown.map((id) => this.assetView(id)));
    this.assetsChanged(shown.filter((id, k) => this.assetViews.get(id) !== before[k]));
  }

  private showAsset(id: string, look: string, levels: (Level | null)[]) {
    const asset = this.assetList.get(id)!;
    this.assetViews.get(id)?.levels.forEach((level) => level?.parts.forEach(disposePart));
    const asked = new Set(levels.flatMap((level, k) => (level ? k : [])));
    this.assetViews.set(id, {
      look,
      levels,
      wanted: new Set(),
      asked,
      height: Math.max(asset.size[1], asset.size[0] * 0.5),
      radius: Math.max(asset.size[0], asset.size[2]) / 2,
    });
  }

  /** Assets on their way, by what they will look like: many drifts ask for the same. */
  private coming = new Map<string, { look: string; shown: Promise<void> }>();

  /** See to it that an asset can be drawn, in its two coarsest levels at least. */
  protected assetView(id: string): Promise<void> {
    const asset = this.assetList.get(id);
    if (!asset) return Promise.resolve();
    const look =
      Object.values(asset.materials)
        .map((m) => this.store.address(m))
        .join(' ') + asset.lods.join(' ');
    const before = this.assetViews.get(id),
      coming = this.coming.get(id);
    if (before?.look === look) return Promise.resolve();
    if (coming?.look === look) return coming.shown;
    const which = asset.lods.map((_, k) => Boolean(before?.levels[k]) || k >= asset.lods.length - 2);
    const mine = () => this.coming.get(id)?.look === look;
    const shown = this.levelsOf(asset, which)
      .then((levels) => {
        if (mine()) this.showAsset(id, look, levels);
      })
      .finally(() => mine() && this.coming.delete(id));
    this.coming.set(id, { look, shown });
    return shown;
  }

  /** Some of the levels of an asset, with empty places for the others. */
  private levelsOf(asset: Asset, which: boolean[]): Promise<(Level | null)[]> {
    return Promise.all(
      asset.lods.map(async (url, k) => {
        return which[k] ? this.levelOf(asset, unpack(await fetchPart(url))) : null;
      }),
    );
  }

  private async levelOf(asset: Asset, packet: Packet): Promise<Level | null> {
    const geometry = geometryOf(packet, true);
    if (!geometry) return null;
    const slots = geometry.userData.slots as string[];
    const materials = await Promise.all(slots.map((slot) => this.slotMaterial(asset, slot, geometry)));
    const parts = partsOf(geometry).map((part, k) => ({
      geometry: part,
      material: materials[k],
      shadow: bentShadow(asset.size[1]),
    }));
    return {
      parts: parts.filter(({ geometry: { drawRange } }) => drawRange.count > 0),
      faces: geometry.index!.count / 3,
    };
  }

  /** What stands near shows at first in the coarse levels that everything has; the finer ones come now. */
  protected fetchFiner() {
    const wanting = [...this.assetViews].filter(([, view]) => view.wanted.size);
    if (this.finerComing || !wanting.length) return;
    this.finerComing = true;
    const taken = wanting.map(async ([id, view]) => {
      const wanted = new Set(view.wanted);
      wanted.forEach((k) => view.asked.add(k));
      view.wanted.clear();
      const finer = await this.levelsOf(
        this.assetList.get(id)!,
        view.levels.map((_, k) => wanted.has(k)),
      );
      finer.forEach((level, k) => (view.levels[k] ??= level));
    });
    void Promise.all(taken)
      // Without them the picture stands in coarse ones.
      .catch((error) => useSite.getState().say(sentence(error)))
      .finally(() => {
        this.finerComing = false;
        this.arrangeWanted = this.shadowWanted = true;
        if (this.software) this.settleSoon();
        else this.redraw();
      });
  }

  protected async sharpen() {
    const sharp = this.store.sharpen();
    if (!sharp) return;
    try {
      await this.together(() => sharp);
      this.redraw();
    } catch (error) {
      // Asked for again with the next change.
      useSite.getState().say(sentence(error));
    }
  }

  private async slotMaterial(asset: Asset, slot: string, lod: THREE.BufferGeometry): Promise<THREE.Material> {
    const id = asset.materials[slot] ?? 'concrete';
    const { alpha, translucency } = this.store.info(id);
    if (alpha || translucency > 0) return leafMaterial(await this.store.cutOut(id), this.lighting, asset.size[1]);
    const made = surfaceMaterial(await this.store.get(id), { layers: 0, tall: asset.size[1] }, this.lighting);
    if (lod.userData.ownUv) made.userData.uniforms.uTile.value = 1;
    return made;
  }

  /** Leaves of another time of the year. */
  async takeSeason(materials: Manifest['materials']) {
    this.store.setInfos(materials);
    await Promise.all([...this.assetViews.keys()].map((id) => this.assetView(id)));
    this.store.dropUnnamed();
    this.arrangeWanted = true;
    this.redraw();
  }
}
