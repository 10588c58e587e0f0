import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { fetchBytes, type Asset, type Manifest, type PlanOf } from '../api/client';
import { unpack, type Packet } from '../api/packet';
import type { View } from '../state/bench';
import { arrange, type AssetView, type DriftView } from './drifts';
import { geometryOf } from './geometry';
import { decalMaterial, leafMaterial, MaterialStore, setLayers, surfaceMaterial, type Layer, type SurfaceMaterial } from './materials';
import { skyOf } from './sky';
import { MOST_LAYERS } from './surfaceShader';

interface OwnerView {
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

type Patinas = Record<string, PlanOf<'patina'>>;

const HAZE = 0.012;

/** Without a graphics card everything costs a hundred times more, so the plate then draws less of it. */
function drawsInSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/** The picture of a site: everything three.js draws, and only when something has changed. */
export class PlateScene {
  readonly renderer: THREE.WebGLRenderer;
  readonly camera = new THREE.PerspectiveCamera(50, 1.6, 0.05, 4000);
  readonly controls: OrbitControls;
  readonly software: boolean;
  readonly tools = new THREE.Group();
  onFrame: (counts: Counts) => void = () => undefined;
  onMoved: () => void = () => undefined;
  private scene = new THREE.Scene();
  private sun = new THREE.DirectionalLight(0xffffff, 3);
  private ambient = new THREE.LightProbe();
  private owners = new Map<string, OwnerView>();
  private drifts = new Map<string, DriftView & { url: string }>();
  private decals = new Map<string, { url: string; mesh: THREE.Mesh | null; look: string }>();
  private assetViews = new Map<string, AssetView>();
  private assetList = new Map<string, Asset>();
  private store: MaterialStore;
  private skyUrl = '';
  private background: THREE.Texture | null = null;
  private view: View = 'lit';
  private maskOf: string | null = null;
  private patinas: Patinas = {};
  private clay = new THREE.MeshStandardMaterial({ color: 0xb9b4aa, roughness: 0.95, side: THREE.DoubleSide });
  private detail: number;
  private arrangeWanted = true;
  private shadowWanted = true;
  private scheduled = 0;
  private dragging = false;
  private drawn = { things: 0, triangles: 0 };
  private settleTimer = 0;
  private raycaster = new THREE.Raycaster();
  private disposed = false;

  constructor(private canvas: HTMLCanvasElement) {
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
      this.onMoved();
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
    this.draw();
  }

  // Camera -----------------------------------------------------------------------------------------------

  private lens = 35;

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

  private held = 0;

  /** Do several changes and draw once after them. */
  private async together(work: () => Promise<unknown>) {
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

  private render() {
    const started = performance.now();
    const quick = this.dragging && this.software;
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
    this.canvas.dataset.frames = String(Number(this.canvas.dataset.frames ?? 0) + 1);
    this.onFrame({ things: this.drawn.things, triangles: Math.round(this.drawn.triangles), drawn: this.renderer.info.render.triangles, ms });
    if (!quick && !this.software) this.tune(ms);
    if (this.software && !quick && !settled) this.settleSoon();
  }

  private sharpness = 1;
  private settling = false;

  private setSharpness(share: number) {
    if (this.sharpness === share || !this.software) return;
    this.sharpness = share;
    this.renderer.setPixelRatio(share);
  }

  /** A slow machine draws the full picture once nothing has moved for a moment. */
  private settleSoon() {
    window.clearTimeout(this.settleTimer);
    this.canvas.dataset.settled = 'false';
    this.settleTimer = window.setTimeout(() => {
      if (this.dragging || this.held || this.disposed) return;
      this.settling = true;
      this.draw();
    }, 900);
  }

  /** Hold the frame near its budget by drawing detail nearer or farther. */
  private tune(ms: number) {
    if (ms > 60 && this.detail > 0.4) this.detail *= 0.85;
    else if (ms < 12 && this.detail < 3) this.detail *= 1.05;
  }

  private arrangeDrifts(quick: boolean, settled: boolean) {
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

  private placeSun() {
    const middle = this.controls.target.clone().lerp(this.camera.position, 0.35);
    this.sun.target.position.copy(middle);
    this.sun.position.copy(middle).addScaledVector(this.sunDirection, 80);
    this.sun.target.updateMatrixWorld();
  }

  private sunDirection = new THREE.Vector3(0.4, 0.6, 0.5);

  setView(view: View, maskOf: string | null) {
    this.view = view;
    this.maskOf = maskOf;
    this.arrangeWanted = true;
    this.applyView();
    this.draw();
  }

  private applyView() {
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

  // Content ----------------------------------------------------------------------------------------------

  setAssets(list: Asset[]) {
    for (const asset of list) this.assetList.set(asset.id, asset);
  }

  private fog = new THREE.FogExp2(0xcccccc, 0.002);

  async setLight(url: string, light: PlanOf<'light'>) {
    this.renderer.toneMappingExposure = 2 ** (light.exposure ?? 0);
    // Three's exponential-squared fog stands in for the proof's exponential haze at the distances of a site.
    this.fog.density = HAZE * (light.haze ?? 0) ** 2 * 0.9;
    if (url !== this.skyUrl) {
      this.skyUrl = url;
      this.takeSky(unpack(await fetchBytes(url)));
    }
    this.draw();
  }

  takeSky(packet: Packet) {
    const sky = skyOf(packet);
    if (this.software) {
      this.ambient.sh.copy(sky.ambient);
    } else {
      const pmrem = new THREE.PMREMGenerator(this.renderer);
      this.scene.environment?.dispose();
      this.scene.environment = pmrem.fromEquirectangular(sky.background).texture;
      pmrem.dispose();
    }
    this.background?.dispose();
    this.background = sky.background;
    this.sunDirection.copy(sky.sun);
    this.sun.color.copy(sky.sunColour);
    this.sun.intensity = 1;
    this.fog.color.copy(sky.haze);
    this.applyView();
    this.contentChanged();
  }

  /** Fetch and show whatever changed since the last manifest. */
  async sync(manifest: Manifest, pieces: Record<string, PlanOf<'piece'>>, patinas: Patinas, tiers: Record<string, string>) {
    this.patinas = patinas;
    this.store.setInfos(manifest.materials);
    await this.together(() => this.syncAll(manifest, pieces, tiers));
  }

  private async syncAll(manifest: Manifest, pieces: Record<string, PlanOf<'piece'>>, tiers: Record<string, string>) {
    const present = new Set(manifest.owners.map((o) => o.owner));
    for (const [key, owner] of this.owners)
      if (!present.has(key)) {
        this.scene.remove(owner.group);
        this.owners.delete(key);
      }
    await Promise.all([
      ...manifest.owners.map((entry) => this.syncOwner(entry, pieces[entry.owner])), this.syncDrifts(manifest, tiers), this.syncDecals(manifest),
    ]);
    this.applyView();
    this.contentChanged();
  }

  private async syncOwner(entry: Manifest['owners'][number], piece: PlanOf<'piece'> | undefined) {
    let owner = this.owners.get(entry.owner);
    if (!owner) {
      owner = { group: new THREE.Group(), mesh: null, meshUrl: '', coverUrl: '', covers: null, coverOrder: [], materialKey: '', surfaces: [] };
      owner.group.userData.owner = entry.owner;
      this.owners.set(entry.owner, owner);
      this.scene.add(owner.group);
    }
    if (piece) this.placePiece(entry.owner, piece);
    const jobs: Promise<void>[] = [];
    if (owner.meshUrl !== entry.mesh) {
      owner.meshUrl = entry.mesh;
      jobs.push(fetchBytes(entry.mesh).then((data) => this.takeMesh(entry.owner, unpack(data))));
    }
    if (owner.coverUrl !== entry.cover) {
      owner.coverUrl = entry.cover;
      if (entry.cover) jobs.push(fetchBytes(entry.cover).then((data) => this.takeCovers(unpack(data))));
      else {
        owner.covers = null;
        owner.coverOrder = [];
      }
    }
    owner.surfaces = entry.surfaces;
    await Promise.all(jobs);
    await this.dressOwner(entry.owner);
  }

  placePiece(key: string, piece: PlanOf<'piece'>) {
    const owner = this.owners.get(key);
    if (!owner) return;
    owner.group.position.fromArray(piece.position ?? [0, 0, 0]);
    const r = THREE.MathUtils.degToRad;
    owner.group.rotation.set(r(piece.tilt ?? 0), r(piece.turn ?? 0), r(piece.roll ?? 0), 'YXZ');
    owner.group.scale.setScalar(piece.size ?? 1);
    owner.group.updateMatrixWorld(true);
    const materials = owner.mesh?.userData.materials as SurfaceMaterial[] | undefined;
    materials?.forEach((m) => (m.userData.uniforms.uUvScale.value = piece.size ?? 1));
    this.contentChanged();
  }

  takeMesh(key: string, packet: Packet) {
    const owner = this.owners.get(key);
    const geometry = geometryOf(packet);
    if (!owner || !geometry) return;
    if (owner.mesh) {
      owner.mesh.geometry.dispose();
      owner.mesh.geometry = geometry;
    } else {
      owner.mesh = new THREE.Mesh(geometry, this.clay);
      owner.mesh.castShadow = owner.mesh.receiveShadow = true;
      owner.mesh.userData = { owner: key, materials: [] };
      owner.group.add(owner.mesh);
    }
    owner.materialKey = '';
    this.contentChanged();
  }

  /** Covers of one or several owners, from a saved state or a preview. */
  takeCovers(packet: Packet) {
    const order = packet.info.patinas as Record<string, string[]>;
    for (const [key, patinas] of Object.entries(order)) {
      const owner = this.owners.get(key);
      const shape = packet.shapes[key];
      if (!owner || !shape) continue;
      owner.covers?.dispose();
      const [layers, height, width] = shape;
      const texture = new THREE.DataArrayTexture(new Uint8Array(packet.arrays[key] as Uint8Array), width, height, Math.max(1, layers));
      texture.format = THREE.RedFormat;
      texture.minFilter = texture.magFilter = THREE.LinearFilter;
      texture.unpackAlignment = 1;
      texture.needsUpdate = true;
      owner.covers = layers ? texture : null;
      owner.coverOrder = patinas;
    }
  }

  async takeCoverPreview(packet: Packet, patinas: Patinas) {
    this.patinas = patinas;
    this.takeCovers(packet);
    await Promise.all(Object.keys(packet.info.patinas as object).map((key) => this.dressOwner(key)));
    this.applyView();
    this.draw();
  }

  /** Give an owner's surfaces their materials and patinas. */
  async dressOwner(key: string) {
    const owner = this.owners.get(key);
    if (!owner?.mesh) return;
    const carried = owner.surfaces.map((surface) =>
      owner.coverOrder.filter((id) => this.patinas[id]?.uses?.some((use) => use.surface === surface.ref)).slice(0, MOST_LAYERS),
    );
    const materialKey = JSON.stringify([owner.surfaces.map((s) => s.material), carried.map((c) => c.length), owner.meshUrl]);
    if (owner.materialKey !== materialKey) {
      const pictures = await Promise.all(owner.surfaces.map((s) => this.store.get(s.material)));
      const old = owner.mesh.userData.materials as SurfaceMaterial[];
      const ownBase = Boolean(owner.mesh.geometry.getAttribute('baseUv'));
      owner.mesh.userData.materials = pictures.map((p, k) => surfaceMaterial(p, carried[k].length, ownBase && p.tile <= 0));
      owner.mesh.material = owner.mesh.userData.materials;
      old.forEach((m) => m.dispose());
      owner.materialKey = materialKey;
    }
    const finishes = [...new Set(carried.flat().map((id) => this.patinas[id].finish.material))];
    const arrays = finishes.length ? await this.store.finishArrays(finishes) : null;
    (owner.mesh.userData.materials as SurfaceMaterial[]).forEach((material, slot) => {
      const layers = arrays ? carried[slot].map((id) => this.layer(id, owner.coverOrder.indexOf(id), arrays.ids)) : [];
      material.userData.keys = carried[slot];
      material.userData.uniforms.uUvScale.value = owner.group.scale.x;
      setLayers(material, layers, owner.covers, arrays);
    });
  }

  private layer(id: string, cover: number, ids: string[]): Layer {
    const finish = this.patinas[id].finish;
    const material = finish.material;
    return {
      key: id, cover, finish: ids.indexOf(material), tile: this.store.finishTile(material) * (finish.scale),
      variationTile: 4 * (finish.variation_size), tint: new THREE.Color(finish.tint),
      variation: finish.variation, roughness: finish.roughness, relief: finish.relief,
      breakUp: finish.break_up, stain: finish.stain,
    };
  }

  private async syncDrifts(manifest: Manifest, tiers: Record<string, string>) {
    const present = new Set(manifest.drifts.map((d) => d.key));
    for (const [key, drift] of this.drifts)
      if (!present.has(key)) {
        this.scene.remove(drift.group);
        this.drifts.delete(key);
      }
    await Promise.all(
      manifest.drifts.map(async ({ key, url }) => {
        if (this.drifts.get(key)?.url === url) return;
        await this.takeInstances(key, unpack(await fetchBytes(url)), tiers[key] ?? 'cover', url);
      }),
    );
  }

  async takeInstances(key: string, packet: Packet, tier: string, url = '') {
    const assets = packet.info.assets as string[];
    await Promise.all(assets.map((id) => this.assetView(id)));
    let drift = this.drifts.get(key);
    if (!drift) {
      drift = { key, tier, packet, assets, group: new THREE.Group(), url };
      this.drifts.set(key, drift);
      this.scene.add(drift.group);
    }
    Object.assign(drift, { packet, assets, tier, url });
    this.arrangeWanted = true;
    if (tier === 'canopy' || tier === 'shrub') this.shadowWanted = true;
    this.draw();
  }

  private async assetView(id: string): Promise<void> {
    const asset = this.assetList.get(id);
    if (!asset || this.assetViews.has(id)) return;
    const urls = this.software ? asset.lods.slice(-2) : asset.lods;
    const packets = await Promise.all((urls.length ? urls : asset.lods).map(async (url) => unpack(await fetchBytes(url))));
    const lods = packets.map(geometryOf).filter((g): g is THREE.BufferGeometry => g !== null);
    const materials = await Promise.all(
      lods.map((lod) =>
        Promise.all(
          (lod.userData.slots as string[]).map(async (slot) => {
            const pictures = await this.store.get(asset.materials[slot] ?? 'concrete');
            if (pictures.alpha || pictures.translucency > 0) return leafMaterial(pictures, slot === 'blade' || Boolean(lod.getAttribute('color')), this.software);
            const made = surfaceMaterial(pictures, 0, false);
            if (lod.userData.ownUv) made.userData.uniforms.uTile.value = 1;
            return made;
          }),
        ),
      ),
    );
    this.assetViews.set(id, { lods, materials, height: Math.max(asset.size[1], asset.size[0] * 0.5), radius: Math.max(asset.size[0], asset.size[2]) / 2 });
  }

  private async syncDecals(manifest: Manifest) {
    const present = new Set(manifest.decals.map((d) => d.key));
    for (const [key, decal] of this.decals)
      if (!present.has(key)) {
        if (decal.mesh) this.scene.remove(decal.mesh);
        this.decals.delete(key);
      }
    await Promise.all(
      manifest.decals.map(async (entry, order) => {
        const have = this.decals.get(entry.key);
        const look = `${entry.picture} ${entry.tint}`;
        if (have?.url !== entry.url || have.look !== look) {
          await this.takeDecal(entry.key, unpack(await fetchBytes(entry.url)), entry.picture, entry.tint, entry.url);
        }
        const mesh = this.decals.get(entry.key)?.mesh;
        if (mesh) mesh.renderOrder = order + 1;
      }),
    );
  }

  async takeDecal(key: string, packet: Packet, picture: string, tint: string, url = '') {
    const pictures = await this.store.get(picture);
    const geometry = geometryOf(packet);
    const before = this.decals.get(key);
    const order = before?.mesh?.renderOrder ?? 1;
    if (before?.mesh) {
      this.scene.remove(before.mesh);
      before.mesh.geometry.dispose();
    }
    let mesh: THREE.Mesh | null = null;
    if (geometry) {
      mesh = new THREE.Mesh(geometry, decalMaterial(pictures, tint));
      mesh.receiveShadow = true;
      mesh.renderOrder = order;
      mesh.userData.decal = key;
      this.scene.add(mesh);
    }
    this.decals.set(key, { url, mesh, look: `${picture} ${tint}` });
    this.draw();
  }

  // Picking ----------------------------------------------------------------------------------------------

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
