import * as THREE from 'three';
import { fetchPart } from '../api/parts';
import { unpack } from '../api/packet';
import { geometryOf } from './geometry';
import type { Hit } from './Picker';
import type { PlateScene } from './PlateScene';
import { TOOLS } from './StaticFrameCache';

/** What is about to be set down, at its true size where the pointer is. */
export class Ghost {
  private mesh: THREE.Mesh;
  private fetched = new Set<string>();
  private forms = new Map<string, THREE.BufferGeometry>();

  constructor(private scene: PlateScene) {
    const material = new THREE.MeshLambertMaterial({
      color: 0xe8e4da,
      transparent: true,
      opacity: 0.62,
      side: THREE.DoubleSide,
    });
    this.mesh = new THREE.Mesh(new THREE.BufferGeometry(), material);
    this.mesh.renderOrder = TOOLS;
    this.mesh.visible = false;
    scene.stage.tools.add(this.mesh);
  }

  /** Show an asset standing on a surface, turned by degrees and sized. */
  show(asset: string | undefined, hit: Hit | null, turn: number, size: number) {
    const was = this.mesh.visible;
    if (asset && !this.fetched.has(asset)) void this.take(asset).then((come) => come && this.again());
    this.again = () => this.show(asset, hit, turn, size);
    const form = asset ? this.forms.get(asset) : undefined;
    this.mesh.visible = Boolean(form && hit);
    if (form && hit) {
      this.mesh.geometry = form;
      this.mesh.position.copy(hit.point);
      this.mesh.rotation.y = THREE.MathUtils.degToRad(turn);
      this.mesh.scale.setScalar(size);
    }
    if (was || this.mesh.visible) this.scene.frames.draw();
  }

  private again = () => undefined as void;

  /** Fetch a shape, once; tells whether it has come. */
  private async take(asset: string): Promise<boolean> {
    this.fetched.add(asset);
    // Fine enough to be recognised.
    const lods = this.scene.assets.get(asset)?.lods;
    const address = lods?.[Math.min(1, lods.length - 1)];
    try {
      const form = address ? geometryOf(unpack(await fetchPart(address))) : null;
      if (form) this.forms.set(asset, form);
      return form !== null;
    } catch {
      // The ring still shows where; the shape is asked for again when the pointer moves on.
      this.fetched.delete(asset);
      return false;
    }
  }

  dispose() {
    this.again = () => undefined;
    this.scene.stage.tools.remove(this.mesh);
    this.forms.forEach((form) => form.dispose());
    (this.mesh.material as THREE.Material).dispose();
    this.scene.frames.draw();
  }
}
