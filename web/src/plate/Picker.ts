import * as THREE from 'three';
import type { DriftsPart } from '../kinds/drift/part';
import type { Plot } from '../kinds/drift/plots';
import type { DriftView } from '../kinds/drift/culling';
import type { OwnersPart } from '../kinds/ground/part';
import type { Picked } from '../state/bench';
import type { Eye } from './Eye';
import { groundHit } from './heightfield';

/** So many single things one edit can hold. */
const MOST_PICKED = 20_000;

/** A place on a surface. */
export interface Hit {
  owner: string;
  surface: string;
  point: THREE.Vector3;
  normal: THREE.Vector3;
}

/** What lies under the pointer, and where places of the site are on the screen. */
export class Picker {
  private raycaster = new THREE.Raycaster();

  constructor(
    private eye: Eye,
    private ground: OwnersPart,
    private scattered: DriftsPart,
  ) {}

  private aim(x: number, y: number) {
    const box = this.eye.canvas.getBoundingClientRect();
    this.raycaster.setFromCamera(
      new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
      this.eye.camera,
    );
  }

  /** The line of sight through a point of the screen. */
  rayAt(x: number, y: number): THREE.Ray {
    this.aim(x, y);
    return this.raycaster.ray.clone();
  }

  /** The surface under a point of the screen. */
  surfaceAt(x: number, y: number, without?: string, only?: string): Hit | null {
    this.aim(x, y);
    const meshes = [...this.ground.owners.entries()]
      .filter(([key, o]) => o.mesh && key !== 'ground' && key !== without && (!only || key === only))
      .map(([, o]) => o.mesh!);
    const found = this.raycaster.intersectObjects(meshes, false)[0];
    const ground = without === 'ground' || (only && only !== 'ground') ? null : this.groundAlong(this.raycaster.ray);
    if (ground && (!found || ground.point.distanceTo(this.raycaster.ray.origin) < found.distance)) return ground;
    if (!found?.face) return null;
    const owner = found.object.userData.owner as string;
    const normal = found.face.normal.clone().transformDirection(found.object.matrixWorld);
    if (normal.dot(this.raycaster.ray.direction) > 0) normal.negate();
    const slot = found.face.materialIndex ?? 0;
    return { owner, surface: this.ground.owners.get(owner)!.surfaces[slot]?.ref ?? '', point: found.point, normal };
  }

  /** The drift under a point of the screen. */
  driftAt(x: number, y: number): { key: string; distance: number } | null {
    this.aim(x, y);
    let best: { key: string; distance: number } | null = null;
    const ray = this.raycaster.ray;
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
    const box = this.eye.canvas.getBoundingClientRect();
    const focal = box.height / 2 / Math.tan(THREE.MathUtils.degToRad(this.eye.camera.fov) / 2);
    for (const plot of this.along(drift, ray)) {
      const { position, scale, asset } = plot;
      for (let n = 0; n < plot.count; n++) {
        const view = this.scattered.assetViews.get(drift.assets[asset[n]]);
        const tall = (view?.height ?? 0.3) * scale[n];
        this.place.set(position[n * 3], position[n * 3 + 1] + tall * 0.4, position[n * 3 + 2]);
        const depth = this.place.distanceTo(this.eye.camera.position);
        this.place.project(this.eye.camera);
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
      title: this.scattered.assetList.get(id)?.title ?? id,
      asset: id,
      size: plot.scale[n],
      place: placeIn(plot, n),
    };
  }

  /** The nearest thing of a drift under a point of the screen. */
  instanceAt(x: number, y: number, key: string) {
    let best: { plot: Plot; n: number } | null = null,
      nearest = Infinity;
    for (const at of this.onPage(key, this.rayAt(x, y))) {
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

  /** The box or outline being drawn, for the marks over the plate. */
  onOutline: (outline: [number, number][] | null) => void = () => undefined;

  showBox(a: { x: number; y: number } | null, b: { x: number; y: number } | null) {
    this.onOutline(
      a && b
        ? [
            [a.x, a.y],
            [b.x, a.y],
            [b.x, b.y],
            [a.x, b.y],
          ]
        : null,
    );
  }

  showLasso(line: [number, number][] | null) {
    this.onOutline(line ? [...line] : null);
  }

  /** Address of an asset's shape, fine enough to be recognised. */
  shapeOf(asset: string): string | undefined {
    const lods = this.scattered.assetList.get(asset)?.lods;
    return lods?.[Math.min(1, lods.length - 1)];
  }

  /** Where a line meets the ground. */
  private groundAlong(ray: THREE.Ray): Hit | null {
    const owner = this.ground.owners.get('ground');
    const hit = owner?.mesh?.geometry.userData.grid ? groundHit(owner.mesh.geometry, ray) : null;
    if (!hit) return null;
    if (hit.normal.dot(ray.direction) > 0) hit.normal.negate();
    return { owner: 'ground', surface: owner!.surfaces[0]?.ref ?? '', ...hit };
  }

  /** Height of the ground under a place, if there is ground. */
  groundHeight(x: number, z: number): number | null {
    return (
      this.groundAlong(new THREE.Ray(new THREE.Vector3(x, 10_000, z), new THREE.Vector3(0, -1, 0)))?.point.y ?? null
    );
  }

  /** From site coordinates to an owner's own, as strokes are kept. */
  toLocal(owner: string, point: THREE.Vector3): THREE.Vector3 {
    const group = this.ground.owners.get(owner)?.group;
    return owner === 'ground' || !group ? point.clone() : group.worldToLocal(point.clone());
  }

  /** Middle and size of an owner on the site. */
  extent(owner: string): { centre: THREE.Vector3; radius: number; top: number } | null {
    const mesh = this.ground.owners.get(owner)?.mesh;
    if (!mesh) return null;
    const box = new THREE.Box3().setFromObject(mesh);
    return {
      centre: box.getCenter(new THREE.Vector3()),
      radius: box.getSize(new THREE.Vector3()).length() / 2,
      top: box.max.y,
    };
  }

  /** A place of the site in pixels of the plate; null behind the eye. */
  onScreen(point: THREE.Vector3): { x: number; y: number } | null {
    const p = point.clone().project(this.eye.camera);
    if (p.z > 1) return null;
    return { x: ((p.x + 1) / 2) * this.eye.canvas.clientWidth, y: ((1 - p.y) / 2) * this.eye.canvas.clientHeight };
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
