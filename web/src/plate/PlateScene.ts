import * as THREE from 'three';
import type { Hit } from './PlateView';
import { PlateContent } from './PlateContent';

export type { Counts, Hit } from './PlateView';

/** The picture of a site, and what lies under the pointer in it. */
export class PlateScene extends PlateContent {
  private raycaster = new THREE.Raycaster();

  private aim(x: number, y: number) {
    const box = this.canvas.getBoundingClientRect();
    this.raycaster.setFromCamera(new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2), this.camera);
  }

  /** The line of sight through a point of the screen. */
  rayAt(x: number, y: number): THREE.Ray {
    this.aim(x, y);
    return this.raycaster.ray.clone();
  }

  /** The surface under a point of the screen. */
  surfaceAt(x: number, y: number, without?: string): Hit | null {
    this.aim(x, y);
    const meshes = [...this.owners.entries()].filter(([key, o]) => o.mesh && key !== without).map(([, o]) => o.mesh!);
    const found = this.raycaster.intersectObjects(meshes, false)[0];
    if (!found?.face) return null;
    const owner = found.object.userData.owner as string;
    const normal = found.face.normal.clone().transformDirection(found.object.matrixWorld);
    if (normal.dot(this.raycaster.ray.direction) > 0) normal.negate();
    const slot = found.face.materialIndex ?? 0;
    return { owner, surface: this.owners.get(owner)!.surfaces[slot]?.ref ?? '', point: found.point, normal };
  }

  /** The drift under a point of the screen. */
  driftAt(x: number, y: number): { key: string; distance: number } | null {
    this.aim(x, y);
    let best: { key: string; distance: number } | null = null;
    const ray = this.raycaster.ray;
    const at = new THREE.Vector3();
    for (const drift of this.drifts.values()) {
      if (drift.tier === 'cover' || drift.tier === 'litter') continue;
      const { position, scale, asset } = drift.packet.arrays as Record<string, Float32Array>;
      for (let n = 0; n < scale.length; n++) {
        const view = this.assetViews.get(drift.assets[asset[n]]);
        if (!view) continue;
        at.set(position[n * 3], position[n * 3 + 1] + view.height * scale[n] * 0.6, position[n * 3 + 2]);
        if (ray.distanceSqToPoint(at) > (view.radius * scale[n] * 0.7) ** 2) continue;
        const distance = at.distanceTo(ray.origin);
        if (!best || distance < best.distance) best = { key: drift.key, distance };
      }
    }
    return best;
  }

  /** Height of the ground under a place, if there is ground. */
  groundHeight(x: number, z: number): number | null {
    const mesh = this.owners.get('ground')?.mesh;
    if (!mesh) return null;
    this.raycaster.set(new THREE.Vector3(x, 1000, z), new THREE.Vector3(0, -1, 0));
    return this.raycaster.intersectObject(mesh, false)[0]?.point.y ?? null;
  }

  /** From site coordinates to an owner's own, as strokes are kept. */
  toLocal(owner: string, point: THREE.Vector3): THREE.Vector3 {
    const group = this.owners.get(owner)?.group;
    return owner === 'ground' || !group ? point.clone() : group.worldToLocal(point.clone());
  }

  /** Middle and size of an owner on the site. */
  extent(owner: string): { centre: THREE.Vector3; radius: number; top: number } | null {
    const mesh = this.owners.get(owner)?.mesh;
    if (!mesh) return null;
    const box = new THREE.Box3().setFromObject(mesh);
    return { centre: box.getCenter(new THREE.Vector3()), radius: box.getSize(new THREE.Vector3()).length() / 2, top: box.max.y };
  }

  /** A place of the site in pixels of the plate; null behind the eye. */
  onScreen(point: THREE.Vector3): { x: number; y: number } | null {
    const p = point.clone().project(this.camera);
    if (p.z > 1) return null;
    return { x: ((p.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - p.y) / 2) * this.canvas.clientHeight };
  }
}
