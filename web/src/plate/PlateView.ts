import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Asset, PlanOf } from '../api/client';
import type { View } from '../state/bench';
import { arrange, type AssetView, type DriftView } from './drifts';
import { MaterialStore, type SurfaceMaterial } from './materials';

export interface OwnerView {
  group: THREE.Group;
  mesh: THREE.Mesh | null;
  meshUrl: string;
  coverUrl: string;
  covers: THREE.DataArrayTexture | null;
  coverOrder: string[];
  materialKey: string;
  surfaces: { ref: string; slot: string; material: string }[];
}

export interface Hit {
  owner: string;
  surface: string;
  point: THREE.Vector3;
  normal: THREE.Vector3;
}

export interface Counts {
  things: number;
  triangles: number;
  drawn: number;
  ms: number;
}

export type Patinas = Record<string, PlanOf<'patina'>>;

/** Without a graphics card everything costs a hundred times more, so the plate then draws less of it. */
function drawsInSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/** Camera and drawing: one frame when something has changed, within what the machine can do. */
export class PlateView {
  readonly renderer: THREE.WebGLRenderer;
  readonly camera = new THREE.PerspectiveCamera(50, 1.6, 0.05, 4000);
  readonly controls: OrbitControls;
  readonly software: boolean;
  readonly tools = new THREE.Group();
  onFrame: (counts: Counts) => void = () => undefined;
  private watchers = new Set<() => void>();

  /** Be told when the view has moved; returns how to stop. */
  watch(told: () => void): () => void {
    this.watchers.add(told);
    return () => this.watchers.delete(told);
  }

  protected scene = new THREE.Scene();
  protected sun = new THREE.DirectionalLight(0xffffff, 3);
  protected ambient = new THREE.LightProbe();
  protected owners = new Map<string, OwnerView>();
  protected drifts = new Map<string, DriftView & { url: string }>();
  protected decals = new Map<string, { url: string; mesh: THREE.Mesh | null; look: string }>();
  protected assetViews = new Map<string, AssetView>();
  protected assetList = new Map<string, Asset>();
  protected store: MaterialStore;
  protected skyUrl = '';
  protected background: THREE.Texture | null = null;
  protected view: View = 'lit';
  protected maskOf: string | null = null;
  protected patinas: Patinas = {};
  /** The surfaces of the ground, drawn as the lowest patinas. */
  protected layers: Patinas = {};
  protected clay = new THREE.MeshStandardMaterial({ color: 0xb9b4aa, roughness: 0.95, side: THREE.DoubleSide });
  protected detail: number;
  protected arrangeWanted = true;
  protected shadowWanted = true;
  protected scheduled = 0;
  protected dragging = false;
  protected drawn = { things: 0, triangles: 0 };
  protected settleTimer = 0;
  protected disposed = false;

  constructor(protected canvas: HTMLCanvasElement) {
    this.software = drawsInSoftware();
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: !this.software, preserveDrawingBuffer: true, powerPreference: 'high-performance' });
    this.detail = this.software ? 0.45 : 1.6;
    this.store = new MaterialStore(this.software ? 512 : 1024);
    this.renderer.setPixelRatio(this.software ? 1 : Math.min(window.devicePixelRatio, 2));
    this.renderer.toneMapping = THREE.NeutralToneMapping;
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    this.sun.castShadow = true;
    const side = this.software ? 1024 : 4096;
    this.sun.shadow.mapSize.set(side, side);
    this.sun.shadow.radius = 3;
    this.sun.shadow.bias = -0.0006;
    this.sun.shadow.normalBias = 0.03;
    const reach = 26;
    Object.assign(this.sun.shadow.camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 1, far: 160 });
    this.scene.add(this.sun, this.sun.target, this.tools, this.ambient);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener('change', () => {
      this.arrangeWanted = true;
      this.watchers.forEach((told) => told());
      this.draw();
    });
    this.controls.addEventListener('start', () => (this.dragging = true));
    this.controls.addEventListener('end', () => {
      this.dragging = false;
      this.arrangeWanted = true;
      this.shadowWanted = true;
      this.draw();
    });
  }

  dispose() {
    this.disposed = true;
    window.clearTimeout(this.settleTimer);
    this.controls.dispose();
    this.renderer.dispose();
  }

  resize(width: number, height: number) {
    if (width < 2 || height < 2) return;
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.applyLens();
    this.arrangeWanted = true;
    this.watchers.forEach((told) => told());
    this.draw();
  }

  // Camera -----------------------------------------------------------------------------------------------

  protected lens = 35;

  /** Focal lengths are for a 36 mm wide picture, so the width of view stays when the plate changes shape. */
  protected applyLens() {
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
    this.watchers.forEach((told) => told());
    this.arrangeWanted = true;
    this.shadowWanted = true;
    this.draw();
  }

  get lensNow() {
    return this.lens;
  }

  frame(centre: THREE.Vector3, radius: number) {
    const back = this.camera.position.clone().sub(this.controls.target).normalize();
    const distance = Math.max(radius, 0.3) / Math.tan(Math.atan(18 / this.lens)) + radius;
    this.lookFrom({ position: centre.clone().addScaledVector(back, distance).toArray(), target: centre.toArray(), lens: this.lens });
  }

  // Drawing ----------------------------------------------------------------------------------------------

  /** Ask for one frame; several asks before it make one frame. */
  draw() {
    if (this.scheduled || this.disposed || this.held > 0) return;
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0;
      if (!this.disposed) this.render();
    });
  }

  protected held = 0;

  /** Do several changes and draw once after them. */
  protected async together(work: () => Promise<unknown>) {
    this.held++;
    try {
      await work();
    } finally {
      this.held--;
      this.draw();
    }
  }

  contentChanged() {
    this.arrangeWanted = true;
    this.shadowWanted = true;
    this.draw();
  }

  /** While a slider or handle is dragged a slow machine draws less, so that the picture follows. */
  setDragging(dragging: boolean) {
    this.dragging = dragging;
    this.arrangeWanted = true;
    this.draw();
  }

  protected render() {
    const started = performance.now();
    // In software the first picture is a quick one too: it shows the site early and is then made full.
    const first = this.software && !this.shown && this.owners.size > 0;
    const quick = this.software && (this.dragging || first);
    this.setSharpness(quick ? 0.5 : 1);
    const settled = this.settling;
    this.settling = false;
    if (this.arrangeWanted || settled) this.arrangeDrifts(quick, settled);
    this.placeSun();
    if (this.shadowWanted && !quick) {
      this.renderer.shadowMap.needsUpdate = true;
      this.shadowWanted = false;
    }
    this.renderer.toneMapping = this.view === 'lit' || this.view === 'clay' ? THREE.NeutralToneMapping : THREE.NoToneMapping;
    this.renderer.render(this.scene, this.camera);
    if (this.software || this.drawn.triangles > 500_000) {
      // Reading one pixel waits for the picture, so that the time counted is the time it took.
      this.renderer.getContext().readPixels(0, 0, 1, 1, 6408, 5121, new Uint8Array(4));
    }
    const ms = performance.now() - started;
    this.canvas.dataset.settled = String(settled || !this.software);
    this.canvas.dataset.took = `${this.canvas.dataset.took ?? ''} ${Math.round(ms)}`.slice(-60);
    this.canvas.dataset.frames = String(Number(this.canvas.dataset.frames ?? 0) + 1);
    this.onFrame({ things: this.drawn.things, triangles: Math.round(this.drawn.triangles), drawn: this.renderer.info.render.triangles, ms });
    if (!quick && !this.software) this.tune(ms);
    if (first) this.shown = this.shadowWanted = this.arrangeWanted = true;
    if (this.software && (!quick || first) && !settled) this.settleSoon();
  }

  private shown = false;
  protected sharpness = 1;
  protected settling = false;

  protected setSharpness(share: number) {
    if (this.sharpness === share || !this.software) return;
    this.sharpness = share;
    this.renderer.setPixelRatio(share);
  }

  /** A slow machine draws the full picture once nothing has moved for a moment. */
  protected settleSoon() {
    window.clearTimeout(this.settleTimer);
    this.canvas.dataset.settled = 'false';
    this.settleTimer = window.setTimeout(() => {
      if (this.dragging || this.held || this.disposed) return;
      this.settling = true;
      this.draw();
    }, 900);
  }

  /** Hold the frame near its budget by drawing detail nearer or farther. */
  protected tune(ms: number) {
    if (ms > 60 && this.detail > 0.4) this.detail *= 0.85;
    else if (ms < 12 && this.detail < 3) this.detail *= 1.05;
  }

  protected arrangeDrifts(quick: boolean, settled: boolean) {
    this.arrangeWanted = false;
    this.camera.updateMatrixWorld();
    const frustum = new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse),
    );
    let things = 0;
    let triangles = 0;
    // Large tiers first: when the budget runs out, ground cover is drawn by its evenly spread beginning.
    const order = ['canopy', 'shrub', 'litter', 'cover'];
    const budget = this.software ? (quick ? 80_000 : settled ? 900_000 : 200_000) : 6_000_000;
    for (const drift of [...this.drifts.values()].sort((a, b) => order.indexOf(a.tier) - order.indexOf(b.tier))) {
      const detail = quick ? 0.15 : settled ? this.detail * 1.5 : this.detail;
      let drawn = arrange(drift, this.assetViews, this.camera.position, frustum, detail, 1, !quick);
      const left = Math.max(budget - triangles, budget * 0.15);
      if (drawn.triangles > left && (drift.tier === 'cover' || drift.tier === 'litter'))
        drawn = arrange(drift, this.assetViews, this.camera.position, frustum, detail, left / drawn.triangles, !quick);
      things += drawn.things;
      triangles += drawn.triangles;
      if (this.view === 'clay') drift.group.children.forEach((m) => ((m as THREE.Mesh).material = this.clay));
      drift.group.visible = this.view !== 'mask';
    }
    this.drawn = { things, triangles };
  }

  protected placeSun() {
    const middle = this.controls.target.clone().lerp(this.camera.position, 0.35);
    this.sun.target.position.copy(middle);
    this.sun.position.copy(middle).addScaledVector(this.sunDirection, 80);
    this.sun.target.updateMatrixWorld();
  }

  protected sunDirection = new THREE.Vector3(0.4, 0.6, 0.5);

  setView(view: View, maskOf: string | null) {
    this.view = view;
    this.maskOf = maskOf;
    this.arrangeWanted = true;
    this.applyView();
    this.draw();
  }

  protected applyView() {
    this.scene.background = this.view === 'lit' ? this.background : new THREE.Color(this.view === 'mask' ? 0x2a2a2a : 0x8e8e8e);
    this.scene.fog = this.view === 'lit' ? this.fog : null;
    for (const owner of this.owners.values()) {
      if (!owner.mesh) continue;
      const own = owner.mesh.userData.materials as SurfaceMaterial[];
      owner.mesh.material = this.view === 'clay' ? own.map(() => this.clay) : own;
      own.forEach((material, slot) => {
        const layers = (material.userData.keys ?? []) as string[];
        material.userData.uniforms.uView.value = { lit: 0, colour: 1, clay: 2, mask: 3 }[this.view];
        material.userData.uniforms.uMaskLayer.value = this.maskOf ? layers.indexOf(this.maskOf) : -1;
        void slot;
      });
    }
    for (const decal of this.decals.values()) if (decal.mesh) decal.mesh.visible = this.view === 'lit' || this.view === 'colour';
  }

  protected fog = new THREE.FogExp2(0xcccccc, 0.002);
}
