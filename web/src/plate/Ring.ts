import * as THREE from 'three';
import type { Hit } from './Picker';
import type { PlateScene } from './PlateScene';

const COUNT = 56;

/** The brush as a ring laid on the surface. On the ground it follows the relief. */
export class Ring {
  private line: THREE.LineLoop;

  constructor(private scene: PlateScene) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(COUNT * 3), 3));
    this.line = new THREE.LineLoop(
      geometry,
      new THREE.LineBasicMaterial({ color: 0xffffff, depthTest: false, toneMapped: false }),
    );
    this.line.frustumCulled = false;
    this.line.renderOrder = 100;
    this.line.visible = false;
    scene.stage.tools.add(this.line);
  }

  show(hit: Hit | null, radius: number) {
    const was = this.line.visible;
    this.line.visible = hit !== null;
    if (hit) {
      const side = new THREE.Vector3(1, 0, 0);
      if (Math.abs(hit.normal.x) > 0.9) side.set(0, 0, 1);
      const a = side.cross(hit.normal).normalize();
      const b = new THREE.Vector3().crossVectors(hit.normal, a);
      const place = this.line.geometry.getAttribute('position') as THREE.BufferAttribute;
      const point = new THREE.Vector3();
      for (let k = 0; k < COUNT; k++) {
        const t = (k / COUNT) * Math.PI * 2;
        point
          .copy(hit.point)
          .addScaledVector(a, Math.cos(t) * radius)
          .addScaledVector(b, Math.sin(t) * radius)
          .addScaledVector(hit.normal, 0.015);
        place.setXYZ(k, point.x, point.y, point.z);
      }
      place.needsUpdate = true;
    }
    if (hit || was) this.scene.frames.draw();
  }

  dispose() {
    this.scene.stage.tools.remove(this.line);
    this.line.geometry.dispose();
    this.scene.frames.draw();
  }
}
