import { sentence, type Asset } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { useSite } from '../../state/site';
import type { PlateContext } from '../../plate/PlateContext';
import { levelOf } from './assets';
import { disposePart, type AssetView, type Level } from './culling';

/** What drifts are made of: assets and their levels of detail, the coarse ones first. */
export class AssetViews {
  readonly views = new Map<string, AssetView>();
  readonly list = new Map<string, Asset>();

  constructor(private plate: PlateContext) {}

  take(list: Asset[]) {
    for (const asset of list) this.list.set(asset.id, this.plate.machine.asset(asset));
  }

  /** A level that has come as it is drawn. */
  level(id: string, packet: Packet, lod: number) {
    return levelOf(this.plate, this.list.get(id)!, packet, lod);
  }

  show(id: string, look: string, levels: (Level | null)[]) {
    const asset = this.list.get(id)!;
    this.views.get(id)?.levels.forEach((level) => level?.parts.forEach(disposePart));
    const asked = new Set(levels.flatMap((level, k) => (level ? k : [])));
    this.views.set(id, {
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
  view(id: string): Promise<void> {
    const asset = this.list.get(id);
    if (!asset) return Promise.resolve();
    const look =
      Object.values(asset.materials)
        .map((m) => this.plate.stage.store.address(m))
        .join(' ') + asset.lods.join(' ');
    const before = this.views.get(id),
      coming = this.coming.get(id);
    if (before?.look === look) return Promise.resolve();
    if (coming?.look === look) return coming.shown;
    const which = asset.lods.map((_, k) => Boolean(before?.levels[k]) || k >= asset.lods.length - 2);
    const mine = () => this.coming.get(id)?.look === look;
    const shown = this.levelsOf(asset, which)
      .then((levels) => {
        if (mine()) this.show(id, look, levels);
      })
      .finally(() => mine() && this.coming.delete(id));
    this.coming.set(id, { look, shown });
    return shown;
  }

  /** Some of the levels of an asset, with empty places for the others. */
  private levelsOf(asset: Asset, which: boolean[]): Promise<(Level | null)[]> {
    return Promise.all(
      asset.lods.map(async (url, k) => {
        return which[k] ? levelOf(this.plate, asset, unpack(await fetchPart(url)), k) : null;
      }),
    );
  }

  /** Are finer levels on their way? */
  finerComing = false;

  /** What stands near shows at first in the coarse levels that everything has; the finer ones come now. */
  fetchFiner() {
    const wanting = [...this.views].filter(([, view]) => view.wanted.size);
    if (this.finerComing || !wanting.length) return;
    this.finerComing = true;
    const taken = wanting.map(async ([id, view]) => {
      const wanted = new Set(view.wanted);
      wanted.forEach((k) => view.asked.add(k));
      view.wanted.clear();
      const finer = await this.levelsOf(
        this.list.get(id)!,
        view.levels.map((_, k) => wanted.has(k)),
      );
      finer.forEach((level, k) => (view.levels[k] ??= level));
    });
    void Promise.all(taken)
      // Without them the picture stands in coarse ones.
      .catch((error) => useSite.getState().say(sentence(error)))
      .finally(() => {
        this.finerComing = false;
        this.plate.frames.arrangeWanted = this.plate.frames.shadowWanted = true;
        if (this.plate.machine.settles) this.plate.frames.settleSoon();
        else this.plate.frames.redraw();
      });
  }

  /** Assets whose materials are other ones now. */
  async lookAnew() {
    await Promise.all([...this.views.keys()].map((id) => this.view(id)));
  }

  dispose() {
    this.views.forEach((view) => view.levels.forEach((level) => level?.parts.forEach(disposePart)));
  }
}
