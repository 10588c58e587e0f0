import * as THREE from 'three';
import { sentence, type Asset, type Manifest } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { grassOf } from '../../api/tufts';
import { useBench } from '../../state/bench';
import { useSite } from '../../state/site';
import type { Spend } from '../../plate/machine';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Plans, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';
import { answersAnew } from './answering';
import { AssetViews } from './AssetViews';
import { countInto, disposeDensity } from '../../plate/density';
import { takeWorn } from './worn';
import { disposePlot, plotOf, plotsIn, type Plot, type PlotEntry } from './plots';
import { fillBatches, disposeDrift, cull, laidUpAnew, type AssetView, type DriftView } from './culling';

/** So many instances are fetched at a time: about 1.5 MB. */
const A_TIME = 64_000;
/** The picture is not shown before so many of the nearest are there; the rest comes while one works. */
const FIRST = 200_000;
/** Higher than anything that is scattered, metres. */
const TALL = 30;
const BEHIND = 10_000;
/** So many triangles of the drift being worked on are drawn while a handle is dragged, at least. */
const ONE_DRIFT = 40_000;
/** Detail of the one drift that follows a handle, and where that would be too much. */
const FOLLOWING = 0.05,
  COARSE = 0.02;
/** Large tiers first: when the budget runs out, ground cover is thinned where it is far off. */
const ORDER = ['canopy', 'shrub', 'litter', 'cover'];

/** What stands of the drifts: their plots, the nearest fetched first, and the assets they are made of. */
export class DriftsPart implements PlatePart {
  readonly drifts = new Map<string, DriftView & { url: string }>();

  private assets: AssetViews;

  constructor(private plate: PlateContext) {
    this.assets = new AssetViews(plate);
  }

  get assetViews(): ReadonlyMap<string, AssetView> {
    return this.assets.views;
  }

  setAssets(list: Asset[]) {
    this.assets.take(list);
  }

  // What frames ask ------------------------------------------------------------------------------------------

  groups() {
    return [...this.drifts.values()].map((drift) => drift.group);
  }

  changing(key: string) {
    return [...this.drifts.values()]
      .filter((drift) => drift.key === key || drift.assets.some((id) => grassOf(id) === key))
      .map((drift) => drift.group);
  }

  arrange(spend: Spend, quick: boolean, seen: Seen) {
    const { eye } = this.plate;
    const sight = { ...spend, eye: eye.camera.position, frustum: eye.frustum(), shadows: !quick };
    let things = 0;
    let triangles = 0;
    const byTier = [...this.drifts.values()].sort((a, b) => ORDER.indexOf(a.tier) - ORDER.indexOf(b.tier));
    for (const drift of byTier) {
      const thinned = drift.tier === 'cover' || drift.tier === 'litter';
      const room = thinned ? Math.max(spend.triangles - triangles, spend.triangles * 0.15) : Infinity;
      triangles += fillBatches(cull(drift, this.assetViews, sight), room);
      things += drift.count;
      this.dress(drift, seen);
    }
    this.countDensity(seen);
    this.assets.fetchFiner();
    return { things, triangles };
  }

  /** The drifts being worked on, within what a frame may take while a handle is dragged. */
  follow(groups: Set<THREE.Object3D>, seen: Seen) {
    const { eye } = this.plate;
    const sight = { eye: eye.camera.position, frustum: eye.frustum(), shadows: false };
    for (const drift of this.drifts.values()) {
      if (!groups.has(drift.group)) continue;
      const at = (detail: number) => cull(drift, this.assetViews, { ...sight, detail, best: detail });
      const found = at(FOLLOWING);
      fillBatches(found.triangles > ONE_DRIFT ? at(COARSE) : found, 2 * ONE_DRIFT);
      this.dress(drift, seen);
    }
    this.countDensity(seen);
  }

  /** Its own materials, or those of the view. */
  private dress(drift: DriftView, seen: Seen) {
    const { clay, drifts } = views[seen.view];
    for (const mesh of drift.group.children as THREE.InstancedMesh[])
      mesh.material = clay ? this.plate.stage.clay : mesh.userData.material;
    drift.group.visible = drifts;
  }

  finer() {
    return this.assets.finerComing;
  }

  dispose() {
    this.assets.dispose();
    this.drifts.forEach(disposeDrift);
    disposeDensity();
  }

  /** Count what stands of the selected drift, or of all, for the view that shows it. */
  private countDensity(seen: Seen) {
    const ground = this.plate.groundMesh();
    if (seen.view !== 'density' || !ground) return;
    const box = new THREE.Box3().setFromObject(ground).getSize(new THREE.Vector3());
    const shown = this.drifts.has(seen.subject) ? [this.drifts.get(seen.subject)!] : [...this.drifts.values()];
    const { full } = countInto(
      shown.flatMap((drift) => [...drift.plots.values()].map((plot) => plot.position)),
      [box.x, box.z],
    );
    if (full !== this.counted) useBench.getState().set({ dots: (this.counted = full) });
  }

  private counted = -1;

  // What comes ----------------------------------------------------------------------------------------------

  ahead(manifest: Manifest, plans: Plans) {
    return [...new Set(manifest.drifts.flatMap(({ key }) => assetsOf(plans, key)))].map((id) => this.assets.view(id));
  }

  async sync(manifest: Manifest, plans: Plans) {
    const present = new Set(manifest.drifts.map((d) => d.key));
    for (const [key, drift] of this.drifts)
      if (!present.has(key)) {
        disposeDrift(drift);
        this.plate.stage.scene.remove(drift.group);
        this.drifts.delete(key);
        this.plate.frames.contentChanged();
      }
    await Promise.all(
      manifest.drifts.map(async ({ key, url }) => {
        this.wantedDrifts.set(key, url);
        if (this.drifts.get(key)?.url === url) return;
        const packet = unpack(await fetchPart(url));
        // An answer that was overtaken is none.
        if (this.wantedDrifts.get(key) === url) await this.take(key, packet, tierOf(plans, key), url);
      }),
    );
    for (const { key } of manifest.drifts) {
      const drift = this.drifts.get(key);
      if (!drift || !answersAnew(drift, plans[key])) continue;
      laidUpAnew(drift);
      this.plate.frames.thingChanged(drift.group);
    }
    await this.syncGrasses(manifest.own);
    await this.fetchNearest(FIRST);
    // The picture stands without what lies on trunks and stones; that comes after it.
    void this.syncWorn(manifest).catch((error) => useSite.getState().say(sentence(error)));
    void this.fetchRest();
    // Finer levels that a lost connection kept back may be asked for again.
    for (const view of this.assetViews.values()) view.levels.forEach((level, k) => level ?? view.asked.delete(k));
  }

  private wantedDrifts = new Map<string, string>();

  /** Patinas on what is scattered, as colours of vertices. */
  private async syncWorn(manifest: Manifest) {
    await Promise.all(
      manifest.drifts.map(async ({ key, worn }) => {
        const drift = this.drifts.get(key);
        if (!drift || !(await takeWorn(drift, worn))) return;
        laidUpAnew(drift);
        this.plate.frames.thingChanged(drift.group);
      }),
    );
  }

  /** A drift as it is saved, with its address, or as it would be, without. */
  async take(key: string, packet: Packet, tier: string, url = '') {
    const assets = packet.info.assets as string[];
    await Promise.all(assets.map((id) => this.assets.view(id)));
    let drift = this.drifts.get(key);
    if (!drift) {
      drift = {
        ...{ key, tier, assets, url, count: 0, plots: new Map(), wanted: [], worn: new Map(), wornAt: '{}' },
        group: new THREE.Group(),
        pool: new Map(),
        response: {},
        own: new Map(),
      };
      this.drifts.set(key, drift);
      this.plate.stage.scene.add(drift.group);
    }
    const wanted = packet.info.plots as PlotEntry[];
    const cells = new Set(wanted.map((entry) => entry.cell));
    for (const cell of [...drift.plots.keys()]) if (!cells.has(cell)) this.drop(drift.plots, cell);
    Object.assign(drift, { assets, tier, url, wanted: url ? wanted : [], count: packet.info.count });
    plotsIn(packet).forEach((plot) => this.takePlot(drift, plot));
    if (tier === 'canopy' || tier === 'shrub') this.plate.frames.shadowWanted = true;
    this.plate.frames.thingChanged(drift.group);
  }

  private takePlot(drift: DriftView, plot: Plot) {
    this.drop(drift.plots, plot.cell);
    drift.plots.set(plot.cell, plot);
    if (this.inView(plot)) this.plate.frames.thingChanged(drift.group);
    else this.plate.frames.arrangeWanted = true;
  }

  private around = new THREE.Box3();

  /** May what stands on a plot be seen, or its shadow? */
  private inView({ low, high }: PlotEntry): boolean {
    this.around.min.set(...low);
    this.around.max.set(...high);
    return this.plate.eye.frustum().intersectsBox(this.around.expandByScalar(TALL));
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
    return this.around.distanceToPoint(this.plate.eye.camera.position) + (seen ? 0 : BEHIND);
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
          const address = drift.url.replace(/\/instances\/(.*)\?.*/, `/plots/$1/${entry.cell}?v=${entry.v}`);
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
      await this.plate.frames.drawnNext();
      while (!this.plate.frames.disposed && (await this.fetchNearest(1)))
        if (this.plate.frames.due) await this.plate.frames.drawnNext();
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
          this.assets.show(
            id,
            `draft ${++this.drafted}`,
            await Promise.all(packets.map((one, k) => this.assets.level(id, one, k))),
          );
        return packets[0];
      }),
    );
    useBench.getState().set({ tufts: { item, levels: levelled } });
    this.assetsChanged(tufts);
  }

  private assetsChanged(ids: string[]) {
    for (const drift of this.drifts.values())
      if (drift.assets.some((id) => ids.includes(id))) this.plate.frames.thingChanged(drift.group);
  }

  /** Grasses of the site whose settings have changed, or were only tried. */
  private async syncGrasses(own: Asset[]) {
    const shown = own.map(({ id }) => id).filter((id) => this.assetViews.has(id));
    const before = shown.map((id) => this.assetViews.get(id));
    await Promise.all(shown.map((id) => this.assets.view(id)));
    this.assetsChanged(shown.filter((id, k) => this.assetViews.get(id) !== before[k]));
  }

  /** Assets whose materials are other ones now. */
  async lookAnew() {
    await this.assets.lookAnew();
  }
}

const assetsOf = (plans: Plans, key: string) => {
  const plan = plans[key];
  return plan?.kind === 'drift' ? plan.assets.map((share) => share.asset) : [];
};

const tierOf = (plans: Plans, key: string) => {
  const plan = plans[key];
  return plan?.kind === 'drift' ? plan.tier : 'cover';
};
