import * as THREE from 'three';
import type { Packet } from '../api/packet';

/** Geometry and materials of one asset: levels of detail, finest first. */
export interface AssetView {
  lods: THREE.BufferGeometry[];
  materials: THREE.Material[][];
  /** Addresses of the pictures its materials were made from. */
  look: string;
  height: number;
  radius: number;
}

/** An instance gets the finest level up to this many of its own heights from the eye, then the next, at last a card. */
const REACH = [16, 48, 130];

export interface DriftView {
  key: string;
  tier: string;
  packet: Packet;
  assets: string[];
  group: THREE.Group;
}

const matrix = new THREE.Matrix4();
const place = new THREE.Vector3();
const turn = new THREE.Quaternion();
const size = new THREE.Vector3();
const ball = new THREE.Sphere();
const tint = new THREE.Color();

export interface Drawn {
  things: number;
  triangles: number;
}

/**
 * Sort the instances of a drift into instanced meshes by asset and level of detail, for where the eye is now.
 *
 * `detail` scales the distances: below 1 everything gets coarser sooner. `share` draws only the beginning of the
 * drift, which is evenly spread, while something is being dragged on a slow machine.
 */
export function arrange(
  drift: DriftView, assets: Map<string, AssetView>, eye: THREE.Vector3, frustum: THREE.Frustum, detail: number, share: number, shadows: boolean,
): Drawn {
  const { position, rotation, scale, asset, tint: tints } = drift.packet.arrays as Record<string, Float32Array>;
  const count = Math.ceil((scale?.length ?? 0) * share);
  const buckets = new Map<string, number[]>();
  const views = drift.assets.map((id) => assets.get(id));
  for (let n = 0; n < count; n++) {
    const view = views[asset[n]];
    if (!view) continue;
    const x = position[n * 3], y = position[n * 3 + 1], z = position[n * 3 + 2], s = scale[n];
    ball.center.set(x, y + (view.height * s) / 2, z);
    ball.radius = Math.max(view.radius, view.height) * s * 0.75;
    const distance = Math.hypot(x - eye.x, y - eye.y, z - eye.z);
    const casts = shadows && view.height * s > 1 && distance < 60;
    if (!casts && !frustum.intersectsSphere(ball)) continue;
    const relative = distance / Math.max(view.height * s, 0.08) / detail;
    const lod = Math.min(relative < REACH[0] ? 0 : relative < REACH[1] ? 1 : relative < REACH[2] ? 2 : 3, view.lods.length - 1);
    const bucket = `${asset[n]} ${lod}`;
    const list = buckets.get(bucket);
    if (list) list.push(n);
    else buckets.set(bucket, [n]);
  }
  for (const child of [...drift.group.children]) {
    (child as THREE.InstancedMesh).dispose();
    drift.group.remove(child);
  }
  let triangles = 0;
  for (const [bucket, list] of buckets) {
    const [number, lod] = bucket.split(' ').map(Number);
    const view = views[number]!;
    const geometry = view.lods[lod];
    const mesh = new THREE.InstancedMesh(geometry, view.materials[lod], list.length);
    list.forEach((n, k) => {
      place.fromArray(position, n * 3);
      turn.set(rotation[n * 4], rotation[n * 4 + 1], rotation[n * 4 + 2], rotation[n * 4 + 3]);
      size.setScalar(scale[n]);
      mesh.setMatrixAt(k, matrix.compose(place, turn, size));
      mesh.setColorAt(k, tint.setRGB(tints[n * 3], tints[n * 3 + 1], tints[n * 3 + 2], THREE.LinearSRGBColorSpace));
    });
    mesh.frustumCulled = false;
    mesh.castShadow = drift.tier === 'canopy' || drift.tier === 'shrub';
    mesh.receiveShadow = true;
    mesh.userData.drift = drift.key;
    mesh.userData.indices = list;
    drift.group.add(mesh);
    triangles += ((geometry.index?.count ?? 0) / 3) * list.length;
  }
  return { things: scale?.length ?? 0, triangles };
}
