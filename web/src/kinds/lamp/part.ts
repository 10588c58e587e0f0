import * as THREE from 'three';
import type { Manifest, Schemas } from '../../api/client';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';

type Lamp = Schemas['LampOut'];

/** So many light the picture, those nearest to the eye: every one costs each pixel of it. */
const SHINING = 4;
/** Metres of what shines that is drawn at least, and its brightness at most. */
const LEAST = 0.015,
  BRIGHTEST = 12;

interface LampView {
  row: Lamp;
  body: THREE.Mesh<THREE.SphereGeometry, THREE.MeshBasicMaterial>;
}

/** Lamps: what shines of them, and the light of the nearest. */
export class LampsPart implements PlatePart {
  private readonly lamps = new Map<string, LampView>();
  private readonly form = new THREE.SphereGeometry(1, 24, 16);
  private lights: THREE.PointLight[] = [];

  constructor(private plate: PlateContext) {}

  async sync(manifest: Manifest) {
    const wanted = new Set(manifest.lamps.map(({ key }) => key));
    for (const [key, { body }] of this.lamps)
      if (!wanted.has(key)) {
        this.drop(body);
        this.lamps.delete(key);
        this.plate.frames.contentChanged();
      }
    manifest.lamps.forEach((row) => this.take(row));
  }

  /** Show a lamp as it is, or as it would be. */
  take(row: Lamp) {
    const known = this.lamps.get(row.key);
    if (known && JSON.stringify(known.row) === JSON.stringify(row)) return;
    const body = known?.body ?? new THREE.Mesh(this.form, new THREE.MeshBasicMaterial());
    if (!known) this.plate.stage.scene.add(body);
    this.lamps.set(row.key, { row, body });
    const radius = Math.max(row.radius, LEAST);
    body.position.fromArray(row.position);
    body.scale.setScalar(radius);
    // The radiance of a ball that gives so much; all of what is brighter than white looks alike.
    const bright = row.intensity.map((part) => part / (Math.PI * radius ** 2));
    const most = Math.max(...bright, 1e-6);
    body.material.color.fromArray(bright).multiplyScalar(Math.min(1, BRIGHTEST / most));
    this.plate.frames.contentChanged();
  }

  /** Where one stands while it is dragged; the rest of it comes from the server. */
  move(key: string, position: [number, number, number]) {
    const known = this.lamps.get(key);
    if (known) this.take({ ...known.row, position });
  }

  arrange() {
    const eye = this.plate.eye.camera.position;
    const nearest = [...this.lamps.values()]
      .sort((a, b) => a.body.position.distanceTo(eye) - b.body.position.distanceTo(eye))
      .slice(0, SHINING);
    // Another number of lights is another program for every material: there are none, or as many as there ever are.
    if (nearest.length && !this.lights.length) {
      this.lights = Array.from({ length: SHINING }, () => new THREE.PointLight(0xffffff, 1, 0, 2));
      this.plate.stage.scene.add(...this.lights);
    }
    this.lights.forEach((light, k) => {
      const lamp = nearest[k];
      light.color.fromArray(lamp ? lamp.row.intensity : [0, 0, 0]);
      if (lamp) light.position.copy(lamp.body.position);
    });
    return { things: 0, triangles: 0 };
  }

  applyView({ view }: Seen) {
    for (const { body } of this.lamps.values()) body.visible = views[view].sky;
  }

  private drop(body: LampView['body']) {
    body.removeFromParent();
    body.material.dispose();
  }

  dispose() {
    this.lamps.forEach(({ body }) => this.drop(body));
    this.lights.forEach((light) => light.removeFromParent());
    this.form.dispose();
  }
}
