import type * as THREE from 'three';
import { sentence, type Asset, type Manifest, type PlanOf } from '../api/client';
import { DecalsPart } from '../kinds/decal/part';
import { DriftsPart } from '../kinds/drift/part';
import { OwnersPart } from '../kinds/ground/part';
import { LightPart } from '../kinds/light/part';
import { takeWeather } from '../kinds/weather/part';
import { BodiesPart } from '../kinds/weather/BodiesPart';
import { FallingPart } from '../kinds/weather/FallingPart';
import { WatersPart } from '../kinds/ground/WatersPart';
import { HitsPart } from '../kinds/weather/HitsPart';
import { RoofsPart } from '../kinds/weather/RoofsPart';
import { PoolsPart } from '../kinds/weather/PoolsPart';
import { SnowPart } from '../kinds/weather/SnowPart';
import { useSite } from '../state/site';
import { Eye } from './Eye';
import { Frames } from './Frames';
import { machine, type Machine } from './machine';
import { Picker } from './Picker';
import type { PlatePart, Plans } from './PlatePart';
import { ShaderPrewarm } from './shaderPrewarm';
import { Stage } from './Stage';

/** Ground and structures wait so long for the plants, milliseconds. */
const PATIENCE = 700;
const later = (ms: number) => new Promise<void>((told) => window.setTimeout(told, ms));

/** What parts of the plate know of the rest of it. */
export interface PlateContext {
  readonly machine: Machine;
  readonly eye: Eye;
  readonly stage: Stage;
  readonly frames: Frames;
  groundMesh(): THREE.Mesh | null;
}

/** The picture of a site: an eye, a stage, frames, and the parts that kinds of items put on it. */
export class PlateScene implements PlateContext {
  readonly machine = machine();
  readonly eye: Eye;
  readonly stage: Stage;
  readonly frames: Frames;
  readonly picker: Picker;
  readonly owners: OwnersPart;
  readonly drifts: DriftsPart;
  readonly decals: DecalsPart;
  readonly light: LightPart;
  readonly snow: SnowPart;
  readonly pools: PoolsPart;
  readonly bodies: BodiesPart;
  readonly falling: FallingPart;
  readonly hits: HitsPart;
  readonly waters: WatersPart;
  readonly roofs: RoofsPart;
  private prewarm: ShaderPrewarm | null = null;
  /** The weather that was last shown. */
  private weather: Plans[string] | undefined;

  constructor(canvas: HTMLCanvasElement) {
    this.eye = new Eye(canvas, this.machine);
    this.stage = new Stage(this.eye, this.machine);
    this.owners = new OwnersPart(this);
    this.drifts = new DriftsPart(this);
    this.decals = new DecalsPart(this);
    this.light = new LightPart(this);
    this.falling = new FallingPart(this);
    this.hits = new HitsPart(this);
    this.waters = new WatersPart(this);
    this.roofs = new RoofsPart(this);
    this.pools = new PoolsPart(this, this.owners.owners);
    this.bodies = new BodiesPart(this, this.owners.owners);
    this.snow = new SnowPart(this, this.owners.owners);
    this.frames = new Frames(this.eye, this.stage, this.machine, this.parts);
    this.picker = new Picker(this.eye, this.owners, this.drifts);
    this.eye.floor = (x, z) => this.picker.groundHeight(x, z);
    this.frames.onShown = () => {
      this.prewarm?.dispose();
      void this.sharpen();
      this.frames.stillSoon();
    };
    this.frames.onStill = () => void this.sharpenNear();
  }

  private get parts(): PlatePart[] {
    return [
      this.light,
      this.owners,
      this.drifts,
      this.decals,
      this.snow,
      this.pools,
      this.bodies,
      this.falling,
      this.hits,
      this.roofs,
      this.waters,
    ];
  }

  groundMesh() {
    return this.owners.owners.get('ground')?.mesh ?? null;
  }

  setAssets(list: Asset[]) {
    this.drifts.setAssets(list);
  }

  /** Fetch and show whatever changed since the last manifest. */
  async sync(manifest: Manifest, plans: Plans) {
    this.owners.takePlans(manifest, plans);
    this.stage.store.setInfos(manifest.materials);
    if (plans.weather !== this.weather && this.weather) this.frames.hurry();
    this.weather = plans.weather;
    // One picture when all is there, not one for every part that arrives.
    await this.frames.together(() => this.syncAll(manifest, plans));
    if (this.frames.shown) void this.sharpen();
  }

  private async syncAll(manifest: Manifest, plans: Plans) {
    const { frames } = this;
    // Ask at once for all that will be needed, so that nothing waits to be known by what comes before it.
    // What does not come is said by who needs it.
    for (const part of this.parts) part.ahead?.(manifest, plans).forEach((one) => one.catch(() => undefined));
    if (frames.opening && this.machine.settles) void this.warmShaders();
    const sky = this.light.sync(manifest, plans);
    const rest = Promise.all([this.drifts.sync(manifest, plans), this.decals.sync(manifest)]);
    // The first of them that fails ends this, and says so for all.
    for (const one of [sky, rest]) one.catch(() => undefined);
    await this.owners.sync(manifest, plans);
    if (frames.opening && (await Promise.race([rest, later(PATIENCE)])) === undefined) {
      // Ground and structures first, where plants are long in coming.
      frames.applyView();
      frames.render();
    }
    await rest;
    await Promise.all([
      this.snow.sync(manifest),
      this.pools.sync(manifest),
      this.bodies.sync(manifest),
      this.hits.sync(manifest),
      this.roofs.sync(manifest),
      this.waters.sync(manifest),
    ]);
    await sky;
    for (const part of this.parts) await part.synced?.();
    frames.opening = false;
    frames.applyView();
  }

  /** Make the programs while what they will draw is on its way. */
  private async warmShaders() {
    // What was asked for just now goes out first.
    await later(1);
    if (this.frames.disposed || !this.frames.opening) return;
    this.prewarm = new ShaderPrewarm(this.machine.lighting, this.machine.pictures.anisotropy);
    await this.prewarm.play(this.eye.renderer, this.stage.scene, this.eye.camera);
  }

  /** Pictures of materials in full, where the first picture of the site made do with coarser ones. */
  private async sharpen() {
    const sharp = this.stage.store.sharpen();
    if (!sharp) return;
    try {
      await this.frames.together(() => sharp);
      this.frames.redraw();
    } catch (error) {
      // Asked for again with the next change.
      useSite.getState().say(sentence(error));
    }
  }

  /** Finest pictures for what is looked at closely. */
  private async sharpenNear() {
    try {
      const changed = await Promise.all([
        this.stage.store.sharpenNear(this.owners.materialsNear()),
        this.owners.pages.fetchNear(),
      ]);
      if (changed.some(Boolean) && !this.frames.disposed) {
        this.frames.redraw();
        await this.frames.drawnNext();
      }
      this.eye.canvas.dataset.near = this.stage.store.nearNow.join(' ');
      this.eye.canvas.dataset.pages = this.owners.pages.shown.join(' ');
    } catch (error) {
      // Asked for again when the eye rests the next time.
      useSite.getState().say(sentence(error));
    }
  }

  /** The weather as it is, or as it is at some time of the wind, seconds. */
  takeWeather(plan: PlanOf<'weather'>, time?: number) {
    takeWeather(this, plan, time);
  }

  dispose() {
    this.frames.dispose();
    this.parts.forEach((part) => part.dispose());
    this.stage.dispose();
    this.prewarm?.dispose();
    this.eye.dispose();
  }
}
