import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Machine } from './machine';

/** The eye stays so far above the ground while it is moved by hand, metres. */
const LOWEST = 0.25;

/** The eye: where it is, its lens, how it is moved, and the canvas it draws on. */
export class Eye {
  readonly renderer: THREE.WebGLRenderer;
  readonly camera = new THREE.PerspectiveCamera(50, 1.6, 0.05, 4000);
  readonly controls: OrbitControls;
  /** It is being moved by hand just now. */
  turning = false;
  private lens = 35;
  private watchers = new Set<() => void>();

  /** Height of the ground under a place, if there is ground. */
  floor: (x: number, z: number) => number | null = () => null;
  /** The view is another one now. */
  onMove: () => void = () => undefined;
  /** The view is another one, and stays. */
  onStay: () => void = () => undefined;
  /** The graphics card was taken away, or has come back. */
  onLost: (lost: boolean) => void = () => undefined;

  constructor(
    readonly canvas: HTMLCanvasElement,
    private machine: Machine,
  ) {
    // Three.js would take a canvas that can be seen through; laying that over the page costs a software compositor more.
    const context = canvas.getContext('webgl2', {
      alpha: false,
      antialias: machine.antialias,
      preserveDrawingBuffer: true,
      powerPreference: 'high-performance',
    })!;
    this.renderer = new THREE.WebGLRenderer({ canvas, context });
    // Asked for the first time with the first picture, it would wait for all programs that are being made.
    this.renderer.extensions.has('EXT_texture_filter_anisotropic');
    // Asking waits for the program; one that fails shows in the browser tests.
    this.renderer.debug.checkShaderErrors = import.meta.env.DEV;
    canvas.addEventListener('webglcontextlost', this.lost);
    canvas.addEventListener('webglcontextrestored', this.restored);
    this.renderer.setPixelRatio(machine.pixelRatio);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener('change', () => {
      this.turning = true;
      const floor = this.floor(this.camera.position.x, this.camera.position.z);
      if (floor !== null) this.camera.position.y = Math.max(this.camera.position.y, floor + LOWEST);
      this.moved();
    });
    this.controls.addEventListener('end', () => {
      // A mere click moves nothing.
      if (!this.turning) return;
      this.turning = false;
      this.onStay();
    });
  }

  /** Be told when places may be elsewhere on the screen; returns how to stop. */
  watch(told: () => void): () => void {
    this.watchers.add(told);
    return () => this.watchers.delete(told);
  }

  tell() {
    this.watchers.forEach((told) => told());
  }

  private moved() {
    this.tell();
    this.onMove();
  }

  private lost = (event: Event) => {
    event.preventDefault();
    this.onLost(true);
  };

  private restored = () => this.onLost(false);

  dispose() {
    this.canvas.removeEventListener('webglcontextlost', this.lost);
    this.canvas.removeEventListener('webglcontextrestored', this.restored);
    this.controls.dispose();
    this.renderer.dispose();
    const { geometries, textures } = this.renderer.info.memory;
    // For whoever looks for leaks: nothing may be left but three.js's own.
    document.body.dataset.plateLeft = `${geometries} ${textures} ${this.renderer.info.programs?.length ?? 0}`;
    this.renderer.forceContextLoss();
  }

  /** Draw with a share of the pixels along each side. */
  sharpen(share: number) {
    this.renderer.setPixelRatio(share * this.machine.pixelRatio);
  }

  resize(width: number, height: number) {
    if (width < 2 || height < 2) return;
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.applyLens();
    this.moved();
  }

  /** Focal lengths are for a 36 mm wide picture, so the width of view stays when the plate changes shape. */
  private applyLens() {
    const wide = 2 * Math.atan(18 / this.lens);
    this.camera.fov = THREE.MathUtils.radToDeg(2 * Math.atan(Math.tan(wide / 2) / this.camera.aspect));
    this.camera.updateProjectionMatrix();
  }

  lookFrom(station: { position: number[]; target: number[]; lens: number }) {
    this.camera.position.fromArray(station.position);
    this.controls.target.fromArray(station.target);
    this.lens = station.lens;
    this.applyLens();
    this.controls.update();
    this.turning = false;
    this.moved();
    this.onStay();
  }

  /** Where it is and what it sees. */
  sight() {
    return {
      position: this.camera.position.toArray(),
      target: this.controls.target.toArray(),
      lens: this.lens,
      aspect: this.camera.aspect,
    };
  }

  /** Where it is and looks, as a station keeps it. */
  aim(): { position: [number, number, number]; target: [number, number, number] } {
    const round = (at: THREE.Vector3) => at.toArray().map((v) => Number(v.toFixed(3))) as [number, number, number];
    return { position: round(this.camera.position), target: round(this.controls.target) };
  }

  get lensNow() {
    return this.lens;
  }

  /** Step back until a ball fills the picture. */
  frame(centre: THREE.Vector3, radius: number) {
    const back = this.camera.position.clone().sub(this.controls.target).normalize();
    const distance = Math.max(radius, 0.3) / Math.tan(Math.atan(18 / this.lens)) + radius;
    this.lookFrom({
      position: centre.clone().addScaledVector(back, distance).toArray(),
      target: centre.toArray(),
      lens: this.lens,
    });
  }

  frustum(): THREE.Frustum {
    this.camera.updateMatrixWorld();
    return new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse),
    );
  }
}
