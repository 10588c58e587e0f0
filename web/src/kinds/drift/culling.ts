import * as THREE from 'three';
import { answering, type Answering } from './answering';
import { coloured, letGo, type Worn } from './worn';
import { disposePlot, type MergedBatch, type Plot, type PlotEntry } from './plots';

/** What of an asset is drawn alike: its bark, its leaves. */
export interface Part {
  geometry: THREE.BufferGeometry;
  material: THREE.Material;
  /** For its shadow, bent by the wind as it is. */
  shadow: THREE.Material;
}

export function disposePart({ geometry, material, shadow }: Part) {
  geometry.dispose();
  material.dispose();
  shadow.dispose();
}

/** One level of detail of an asset. */
export interface Level {
  /** Its asset and number, as `asset/level`. */
  name: string;
  parts: Part[];
  faces: number;
}

/** Geometry and materials of one asset: levels of detail, finest first; finer ones come when something stands near. */
export interface AssetView {
  levels: (Level | null)[];
  /** Levels that would be drawn if they were there. */
  wanted: Set<number>;
  /** Levels that have been asked for; what did not come is asked for again with the next change. */
  asked: Set<number>;
  /** Addresses of the pictures its materials were made from. */
  look: string;
  height: number;
  radius: number;
}

/** An instance gets the finest level up to this many of its own heights from the eye, then the next, at last a card. */
const REACH = [16, 48, 130];
/** From so far on nothing throws a shadow into the picture that was not in it. */
const CASTS = 60;

export interface DriftView extends Worn, Answering {
  key: string;
  tier: string;
  /** All that stand, whether they have come already or not. */
  count: number;
  assets: string[];
  plots: Map<string, Plot>;
  /** What the saved drift consists of. */
  wanted: PlotEntry[];
  group: THREE.Group;
  /** Buffers of what is drawn one by one, by the level they hold; kept from picture to picture. */
  pool: Map<Level, Pooled>;
}

/** Meshes on buffers with room for so many; `idle` counts the pictures they were not needed for. */
interface Pooled {
  meshes: THREE.InstancedMesh[];
  room: number;
  idle: number;
}

/** Give back what a drift holds on the graphics card. */
export function disposeDrift(drift: DriftView) {
  drift.plots.forEach(disposePlot);
  drift.pool.forEach(({ meshes }) => meshes.forEach(letGo));
  drift.pool.clear();
  drift.own.forEach((material) => material.dispose());
  drift.own.clear();
}

/** Its colours are other ones now: what was laid up with the old ones is not drawn again. */
export function laidUpAnew(drift: DriftView) {
  drift.group.clear();
  disposeDrift(drift);
}

/** Where the eye is and how much it is worth to draw. */
export interface Sight {
  eye: THREE.Vector3;
  frustum: THREE.Frustum;
  /** Scales the distances of the levels: below 1 everything gets coarser sooner. */
  detail: number;
  /** The same for the best picture that will be drawn from here. */
  best: number;
  /** Also what throws shadows into the picture from outside. */
  shadows: boolean;
}

/** Instances of one plot that are drawn alike, in the plot's order. */
interface Run {
  plot: Plot;
  members: number[];
}

/** One asset at one level of detail. */
interface Bucket {
  view: AssetView;
  lod: number;
  runs: Run[];
}

interface Seen {
  plot: Plot;
  distance: number;
  triangles: number;
  far: boolean;
}

/** What would be drawn of a drift. */
export interface Culled {
  drift: DriftView;
  views: (AssetView | undefined)[];
  buckets: Bucket[];
  seen: Seen[];
  triangles: number;
}

const ball = new THREE.Sphere();
const around = new THREE.Box3();
const spot = new THREE.Vector3();

const levelAt = (relative: number) => (relative < REACH[0] ? 0 : relative < REACH[1] ? 1 : relative < REACH[2] ? 2 : 3);
const lastOf = (view: AssetView) => view.levels.length - 1;

/** The finest level that is there, from a wanted one on; the last always is. */
function levelThere(view: AssetView, wanted: number): number {
  let level = Math.min(wanted, lastOf(view));
  while (!view.levels[level]) level++;
  return level;
}

/** Sort what can be seen of a drift by asset and level of detail; plots that are far off throughout and mostly in view are taken whole. */
export function cull(drift: DriftView, assets: ReadonlyMap<string, AssetView>, sight: Sight): Culled {
  const views = drift.assets.map((id) => assets.get(id));
  const buckets = new Map<number, Bucket>();
  const seen: Seen[] = [];
  const there = views.filter((view) => view !== undefined);
  const tallest = Math.max(0, ...there.map((view) => view.height));
  const widest = Math.max(0, ...there.map((view) => Math.max(view.radius, view.height)));
  const last = Math.max(0, ...there.map(lastOf));
  for (const plot of drift.plots.values()) {
    around.copy(plot.box).expandByScalar(widest * plot.largest);
    const distance = plot.box.distanceToPoint(sight.eye);
    const casts = sight.shadows && tallest * plot.largest > 1 && distance < CASTS;
    if (!casts && !sight.frustum.intersectsBox(around)) continue;
    const alike =
      drift.plots.size > 1 && levelAt(distance / Math.max(tallest * plot.largest, 0.08) / sight.detail) >= last;
    const far = alike && mostlySeen(plot, sight.frustum);
    const triangles = far ? triangleSum(plot, views) : sortOut(plot, views, buckets, sight);
    seen.push({ plot, distance, triangles, far });
  }
  return {
    drift,
    views,
    buckets: [...buckets.values()],
    seen,
    triangles: seen.reduce((sum, one) => sum + one.triangles, 0),
  };
}

/** So many of a plot, evenly spread over it, tell how much of it is in view. */
const SAMPLE = 48;

/** Is at least half of a plot in view? What stands out of view costs as much to draw as what does not. */
function mostlySeen({ position, count }: Plot, frustum: THREE.Frustum): boolean {
  const some = Math.min(count, SAMPLE);
  let seen = 0;
  for (let n = 0; n < some; n++) if (frustum.containsPoint(spot.fromArray(position, n * 3))) seen++;
  return 2 * seen >= some;
}

function triangleSum(plot: Plot, views: (AssetView | undefined)[]): number {
  const each = views.map((view) => (view ? view.levels[lastOf(view)]!.faces : 0));
  let sum = 0;
  for (let n = 0; n < plot.count; n++) sum += each[plot.asset[n]];
  return sum;
}

function sortOut(
  plot: Plot,
  views: (AssetView | undefined)[],
  buckets: Map<number, Bucket>,
  { eye, frustum, detail, best, shadows }: Sight,
): number {
  const { position, scale, asset } = plot;
  const runs = new Map<number, Run>();
  let triangles = 0;
  for (let n = 0; n < plot.count; n++) {
    const view = views[asset[n]];
    if (!view) continue;
    const x = position[n * 3],
      y = position[n * 3 + 1],
      z = position[n * 3 + 2],
      tall = view.height * scale[n];
    const distance = Math.hypot(x - eye.x, y - eye.y, z - eye.z);
    if (!shadows || tall <= 1 || distance >= CASTS) {
      ball.center.set(x, y + tall / 2, z);
      ball.radius = Math.max(view.radius, view.height) * scale[n] * 0.75;
      if (!frustum.intersectsSphere(ball)) continue;
    }
    const relative = distance / Math.max(tall, 0.08);
    const aim = Math.min(levelAt(relative / best), lastOf(view));
    if (!view.asked.has(aim)) view.wanted.add(aim);
    const lod = levelThere(view, levelAt(relative / detail));
    const number = asset[n] * 8 + lod;
    let run = runs.get(number);
    if (!run) {
      runs.set(number, (run = { plot, members: [] }));
      const bucket = buckets.get(number);
      if (bucket) bucket.runs.push(run);
      else buckets.set(number, { view, lod, runs: [run] });
    }
    run.members.push(n);
    triangles += view.levels[lod]!.faces;
  }
  return triangles;
}

/** Buffers are made so many times larger than they have to be, and go when they were not needed for so many pictures. */
const SPARE = 1.25,
  IDLE = 30;
/** Nearer than this all of a plot counts as near, metres. */
const NEAR = 4;

/**
 * For each plot the share of it to draw so that no more than `most` triangles are: thinner with the square of the
 * distance, so that what is left out is left out where many stand behind each other.
 */
export function shares({ seen, triangles }: Culled, most: number): number[] {
  if (triangles <= most) return seen.map(() => 1);
  const weights = seen.map((one) => Math.max(one.distance, NEAR) ** -2);
  const drawn = (factor: number) =>
    seen.reduce((sum, one, k) => sum + one.triangles * Math.min(1, factor * weights[k]), 0);
  let low = 0,
    high = 1 / Math.min(...weights);
  for (let k = 0; k < 40; k++) {
    const middle = (low + high) / 2;
    if (drawn(middle) > most) high = middle;
    else low = middle;
  }
  return weights.map((weight) => Math.min(1, low * weight));
}

/** Make the drift's group show what is left after culling, within `most` triangles. Returns how many triangles that are. */
export function fillBatches(found: Culled, most: number): number {
  const { drift, seen, buckets } = found;
  drift.group.clear();
  drift.pool.forEach((pooled) => pooled.idle++);
  const share = shares(found, most);
  const cutoff = new Map(seen.map((one, k) => [one.plot, Math.ceil(one.plot.count * share[k])]));
  let triangles = 0;
  for (const bucket of buckets) triangles += addNear(drift, bucket, cutoff);
  for (const { plot, far } of seen) {
    if (!far) continue;
    for (const { meshes, members, faces } of mergedBatches(drift, plot, found.views)) {
      const count = below(members, cutoff.get(plot)!);
      meshes.forEach((mesh) => (mesh.count = count));
      drift.group.add(...meshes);
      triangles += count * faces;
    }
  }
  for (const [level, { meshes, idle }] of drift.pool)
    if (idle > IDLE) {
      meshes.forEach(letGo);
      drift.pool.delete(level);
    }
  return triangles;
}

/** How many of some ascending numbers are below a limit. */
function below(members: number[], limit: number): number {
  let low = 0,
    high = members.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (members[middle] < limit) low = middle + 1;
    else high = middle;
  }
  return low;
}

function addNear(drift: DriftView, { view, lod, runs }: Bucket, cutoff: Map<Plot, number>): number {
  const counts = runs.map((run) => below(run.members, cutoff.get(run.plot)!));
  const total = counts.reduce((a, b) => a + b, 0);
  if (!total) return 0;
  const level = view.levels[lod]!;
  const meshes = pooled(drift, level, total);
  let at = 0;
  runs.forEach((run, k) => {
    fill(meshes[0], at, run, counts[k]);
    at += counts[k];
  });
  for (const [attribute, size] of [
    [meshes[0].instanceMatrix, 16],
    [meshes[0].instanceColor!, 3],
  ] as const) {
    attribute.clearUpdateRanges();
    attribute.addUpdateRange(0, total * size);
    attribute.needsUpdate = true;
  }
  drift.group.add(...meshes);
  return total * level.faces;
}

/** Buffers of a level with room for some number, those of the last picture if they hold as many. */
function pooled(drift: DriftView, level: Level, total: number): THREE.InstancedMesh[] {
  let found = drift.pool.get(level);
  if (!found || found.room < total) {
    found?.meshes.forEach(letGo);
    const room = Math.ceil(total * SPARE);
    found = { meshes: instanced(drift, level, room), room, idle: 0 };
    drift.pool.set(level, found);
  }
  found.idle = 0;
  found.meshes.forEach((mesh) => (mesh.count = total));
  return found.meshes;
}

/** Three.js would go through all instances to know where they are; what is not in view has been left out already. */
const ANYWHERE = new THREE.Sphere(new THREE.Vector3(), Infinity);

/** One mesh a part, all of them on the same places. */
function instanced(drift: DriftView, { name, parts }: Level, total: number): THREE.InstancedMesh[] {
  const places = new THREE.InstancedBufferAttribute(new Float32Array(total * 16), 16);
  const colours = new THREE.InstancedBufferAttribute(new Float32Array(total * 3), 3);
  const worn = drift.worn.get(name);
  return parts.map(({ geometry, material: shared, shadow }) => {
    const material = answering(drift, shared);
    const mesh = new THREE.InstancedMesh(worn ? coloured(geometry, worn) : geometry, material, 0);
    Object.assign(mesh, { count: total, instanceMatrix: places, instanceColor: colours, customDepthMaterial: shadow });
    mesh.frustumCulled = false;
    mesh.boundingSphere = ANYWHERE;
    mesh.castShadow = drift.tier === 'canopy' || drift.tier === 'shrub';
    mesh.receiveShadow = true;
    mesh.userData = { drift: drift.key, material };
    return mesh;
  });
}

function fill(mesh: THREE.InstancedMesh, start: number, { plot, members }: Run, count: number) {
  const matrices = plot.matrices(),
    colours = plot.colours();
  const into = mesh.instanceMatrix.array as Float32Array,
    tints = mesh.instanceColor!.array as Float32Array;
  for (let k = 0; k < count; k++) {
    const n = members[k],
      to = start + k;
    into.set(matrices.subarray(n * 16, n * 16 + 16), to * 16);
    tints[to * 3] = colours[n * 3];
    tints[to * 3 + 1] = colours[n * 3 + 1];
    tints[to * 3 + 2] = colours[n * 3 + 2];
  }
}

/** A far plot at its last level of detail, asset by asset: laid up once, drawn by its beginning. */
function mergedBatches(drift: DriftView, plot: Plot, views: (AssetView | undefined)[]): MergedBatch[] {
  const look = views.map((view) => view?.look).join(' ');
  if (plot.far?.look === look) return plot.far.batches;
  disposePlot(plot);
  const batches = views.flatMap((view, number) => {
    const members = view ? [...plot.asset.keys()].filter((n) => plot.asset[n] === number) : [];
    if (!view || !members.length) return [];
    const level = view.levels[lastOf(view)]!;
    const meshes = instanced(drift, level, members.length);
    fill(meshes[0], 0, { plot, members }, members.length);
    return [{ meshes, members, faces: level.faces }];
  });
  plot.far = { look, batches };
  return batches;
}
