import * as THREE from 'three';
import type { Asset, PlanOf } from '../api/client';
import { Backdrop, TOOLS } from './Backdrop';
import { disposePart, type AssetView, type DriftView } from './drifts';
import { clayMaterial, type Lighting } from './materials';
import { MaterialStore } from './materialStore';
import { disposeOwner, type OwnerView } from './owners';
import { disposeDensity } from './density';
import { PlateCamera } from './PlateCamera';
import { disposePlot } from './plots';
import { Rehearsal } from './rehearsal';
import { skyDome } from './sky';

/** A decal as it is drawn, and which version of it is wanted and shown. */
export interface DecalView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material> | null;
}

export type Patinas = Record<string, PlanOf<'patina'>>;

/** Samples where a surface is seen at a slant, without a graphics card. */
const ANISOTROPY = 2;

/** What stands before the eye, and the light it stands in. */
export abstract class PlateStage extends PlateCamera {
  readonly tools = new THREE.Group();
  protected scene = new THREE.Scene();
  protected sun = new THREE.DirectionalLight(0xffffff, 3);
  protected ambient = new THREE.LightProbe();
  protected owners = new Map<string, OwnerView>();
  protected drifts = new Map<string, DriftView & { url: string }>();
  protected decals = new Map<string, DecalView>();
  protected assetViews = new Map<string, AssetView>();
  protected assetList = new Map<string, Asset>();
  protected store: MaterialStore;
  protected skyUrl = '';
  protected dome = skyDome();
  protected backdrop: Backdrop | null = null;
  protected patinas: Patinas = {};
  /** The surfaces of the ground, drawn as the lowest patinas. */
  protected layers: Patinas = {};
  protected clay = clayMaterial();
  protected lighting: Lighting;
  protected fog = new THREE.FogExp2(0xcccccc, 0.002);
  /** Until all of a site has come for the first time; what is there is drawn already, without waiting for it. */
  protected opening = true;

  constructor(canvas: HTMLCanvasElement) {
    super(canvas);
    this.lighting = { plain: this.software };
    // Pictures are laid up as they come, not all in the first frame that shows them.
    const lay = (texture: THREE.Texture) => {
      this.renderer.initTexture(texture);
      this.renderer.getContext().flush();
    };
    this.store = new MaterialStore(
      this.software
        ? { side: 512, first: 256, anisotropy: ANISOTROPY, lay }
        : { side: 1024, first: 1024, anisotropy: 8, lay },
    );
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
    Object.assign(this.sun.shadow.camera, {
      left: -reach,
      right: reach,
      top: reach,
      bottom: -reach,
      near: 1,
      far: 160,
    });
    this.tools.renderOrder = TOOLS;
    this.scene.add(this.sun, this.sun.target, this.tools, this.ambient, this.dome);
    if (this.software) {
      this.backdrop = new Backdrop(this.renderer, this.dome.material);
      this.scene.add(this.backdrop.curtain);
    }
  }

  protected disposed = false;

  dispose() {
    this.disposed = true;
    this.owners.forEach(disposeOwner);
    this.decals.forEach(disposeDecal);
    this.assetViews.forEach((view) => view.levels.forEach((level) => level?.parts.forEach(disposePart)));
    this.drifts.forEach((drift) => drift.plots.forEach(disposePlot));
    this.store.dispose();
    disposeDensity();
    this.clay.dispose();
    this.dome.material.map?.dispose();
    this.scene.environment?.dispose();
    // Whatever else stands in the scene: instances, tools, the dome.
    this.scene.traverse((thing) => {
      const { geometry, material, dispose } = thing as Partial<THREE.InstancedMesh>;
      geometry?.dispose();
      [material ?? []].flat().forEach((one) => one.dispose());
      if ((thing as THREE.InstancedMesh).isInstancedMesh) dispose?.call(thing);
    });
    this.sun.shadow.dispose();
    this.backdrop?.dispose();
    this.rehearsal?.dispose();
    super.dispose();
  }

  protected rehearsal: Rehearsal | null = null;

  /** Make the programs while what they will draw is on its way. */
  protected async rehearse() {
    // What was asked for just now goes out first.
    await new Promise((told) => window.setTimeout(told, 1));
    if (this.disposed || !this.opening) return;
    this.rehearsal = new Rehearsal(this.lighting, ANISOTROPY);
    await this.rehearsal.play(this.renderer, this.scene, this.camera);
  }

  protected frustum(): THREE.Frustum {
    this.camera.updateMatrixWorld();
    return new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse),
    );
  }

  protected placeSun() {
    this.dome.position.copy(this.camera.position);
    const middle = this.controls.target.clone().lerp(this.camera.position, 0.35);
    this.sun.target.position.copy(middle);
    this.sun.position.copy(middle).addScaledVector(this.sunDirection, 80);
    this.sun.target.updateMatrixWorld();
  }

  protected sunDirection = new THREE.Vector3(0.4, 0.6, 0.5);
}

/** Give back what a decal holds on the graphics card; its picture belongs to the store. */
export function disposeDecal({ mesh }: DecalView) {
  mesh?.geometry.dispose();
  mesh?.material.dispose();
}
