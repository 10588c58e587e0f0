import * as THREE from 'three';
import type { Eye } from './Eye';
import { groundHit } from './heightfield';
import type { OwnerView } from './surfaces/owners';

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
    private owners: ReadonlyMap<string, OwnerView>,
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
    const meshes = [...this.owners.entries()]
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
    return { owner, surface: this.owners.get(owner)!.surfaces[slot]?.ref ?? '', point: found.point, normal };
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

  /** Where a line meets the ground. */
  private groundAlong(ray: THREE.Ray): Hit | null {
    const owner = this.owners.get('ground');
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
    const group = this.owners.get(owner)?.group;
    return owner === 'ground' || !group ? point.clone() : group.worldToLocal(point.clone());
  }

  /** Middle and size of an owner on the site. */
  extent(owner: string): { centre: THREE.Vector3; radius: number; top: number } | null {
    const mesh = this.owners.get(owner)?.mesh;
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
