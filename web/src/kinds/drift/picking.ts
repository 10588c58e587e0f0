import * as THREE from 'three';
import type { PlateScene } from '../../plate/PlateScene';
import type { Picked } from '../../state/bench';
import type { DriftView } from './culling';
import { DriftsPart } from './part';
import type { Plot } from './plots';

/** So many single things one edit can hold. */
const MOST_PICKED = 20_000;

/** Single things of drifts: which lies under the pointer, which within an outline. */
export class ThingPicker {
  private readonly scattered: DriftsPart;

  constructor(private readonly plate: PlateScene) {
    this.scattered = plate.part(DriftsPart);
  }

  /** The drift under a point of the screen. */
  driftAt(x: number, y: number): { key: string; distance: number } | null {
    let best: { key: string; distance: number } | null = null;
    const ray = this.plate.picker.rayAt(x, y);
    const at = new THREE.Vector3();
    for (const drift of this.scattered.drifts.values()) {
      if (drift.tier === 'cover' || drift.tier === 'litter') continue;
      for (const { position, scale, asset, count } of this.along(drift, ray)) {
        for (let n = 0; n < count; n++) {
          const view = this.scattered.assetViews.get(drift.assets[asset[n]]);
          if (!view) continue;
          at.set(position[n * 3], position[n * 3 + 1] + view.height * scale[n] * 0.6, position[n * 3 + 2]);
          if (ray.distanceSqToPoint(at) > (view.radius * scale[n] * 0.7) ** 2) continue;
          const distance = at.distanceTo(ray.origin);
          if (!best || distance < best.distance) best = { key: drift.key, distance };
        }
      }
    }
    return best;
  }

  private place = new THREE.Vector3();

  /** The plots of a drift that a line of sight may meet; all of them without one. */
  private along(drift: DriftView, ray?: THREE.Ray): Plot[] {
    const plots = [...drift.plots.values()];
    if (!ray) return plots;
    const wide = Math.max(
      1,
      ...drift.assets.map((id) =>
        Math.max(this.scattered.assetViews.get(id)?.height ?? 0, this.scattered.assetViews.get(id)?.radius ?? 0),
      ),
    );
    return plots.filter((plot) => ray.intersectsBox(plot.box.clone().expandByScalar(wide * plot.largest)));
  }

  /** Walk through what stands of a drift: its place on the screen (pixels of the page), depth and size there. */
  private *onPage(key: string, ray?: THREE.Ray) {
    const drift = this.scattered.drifts.get(key);
    if (!drift) return;
    const box = this.plate.eye.canvas.getBoundingClientRect();
    const focal = box.height / 2 / Math.tan(THREE.MathUtils.degToRad(this.plate.eye.camera.fov) / 2);
    for (const plot of this.along(drift, ray)) {
      const { position, scale, asset } = plot;
      for (let n = 0; n < plot.count; n++) {
        const view = this.scattered.assetViews.get(drift.assets[asset[n]]);
        const tall = (view?.height ?? 0.3) * scale[n];
        this.place.set(position[n * 3], position[n * 3 + 1] + tall * 0.4, position[n * 3 + 2]);
        const depth = this.place.distanceTo(this.plate.eye.camera.position);
        this.place.project(this.plate.eye.camera);
        if (this.place.z > 1) continue;
        const x = box.left + ((this.place.x + 1) / 2) * box.width,
          y = box.top + ((1 - this.place.y) / 2) * box.height;
        yield { plot, n, x, y, depth, reach: Math.max(5, (focal * tall * 0.45) / depth) };
      }
    }
  }

  private instance(key: string, plot: Plot, n: number) {
    const id = this.scattered.drifts.get(key)!.assets[plot.asset[n]];
    return {
      identity: plot.identity(n),
      title: this.plate.assets.get(id)?.title ?? id,
      asset: id,
      size: plot.scale[n],
      place: placeIn(plot, n),
    };
  }

  /** The nearest thing of a drift under a point of the screen. */
  instanceAt(x: number, y: number, key: string) {
    let best: { plot: Plot; n: number } | null = null,
      nearest = Infinity;
    for (const at of this.onPage(key, this.plate.picker.rayAt(x, y))) {
      if (Math.hypot(at.x - x, at.y - y) > at.reach || at.depth >= nearest) continue;
      [best, nearest] = [at, at.depth];
    }
    return best && this.instance(key, best.plot, best.n);
  }

  /** Everything of a drift within an outline on the screen. */
  instancesWithin(outline: [number, number][], key: string): Picked {
    const found: Picked = { drift: key, identities: [], places: [] };
    for (const at of this.onPage(key)) {
      if (found.identities.length >= MOST_PICKED) break;
      if (within(outline, at.x, at.y)) pick(found, at.plot, at.n);
    }
    return found;
  }

  /** Everything of the drift that is of the same assets as those picked. */
  alike(picked: Picked): Picked {
    const plots = [...(this.scattered.drifts.get(picked.drift)?.plots.values() ?? [])];
    const found: Picked = { drift: picked.drift, identities: [], places: [] };
    const wanted = new Set(picked.identities),
      assets = new Set<number>();
    for (const plot of plots)
      for (let n = 0; n < plot.count; n++)
        if (!assets.has(plot.asset[n]) && wanted.has(plot.identity(n))) assets.add(plot.asset[n]);
    for (const plot of plots)
      for (let n = 0; n < plot.count && found.identities.length < MOST_PICKED; n++)
        if (assets.has(plot.asset[n])) pick(found, plot, n);
    return found;
  }
}

const placeIn = (plot: Plot, n: number) =>
  [0, 1, 2].map((k) => Number(plot.position[n * 3 + k].toFixed(3))) as [number, number, number];

function pick(into: Picked, plot: Plot, n: number) {
  into.identities.push(plot.identity(n));
  into.places.push(placeIn(plot, n));
}

/** Is a point inside an outline? By counting crossings. */
function within(outline: [number, number][], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [ax, ay] = outline[i],
      [bx, by] = outline[j];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}
