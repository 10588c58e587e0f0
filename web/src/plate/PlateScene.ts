import { sentence, type Asset, type Manifest } from '../api/client';
import { Eye } from './Eye';
import { Frames } from './Frames';
import { machine } from './machine';
import { Picker } from './Picker';
import type { PartOf, PlateContext, PlateHost } from './PlateContext';
import type { PlatePart, Plans } from './PlatePart';
import { OwnersPart } from './surfaces/OwnersPart';
import { ShaderPrewarm } from './shaderPrewarm';
import { Stage } from './Stage';

/** Ground and structures wait so long for the plants, milliseconds. */
const PATIENCE = 700;
const later = (ms: number) => new Promise<void>((told) => window.setTimeout(told, ms));

/** The picture of a site: an eye, a stage, frames, and the parts that kinds of items put on it. */
export class PlateScene implements PlateContext {
  readonly machine = machine();
  readonly eye: Eye;
  readonly stage: Stage;
  readonly frames: Frames;
  readonly picker: Picker;
  /** Ground and pieces: what all else lies on. */
  readonly surfaces: OwnersPart;
  /** What can be set down or scattered on this site. */
  assets: ReadonlyMap<string, Asset> = new Map();
  private readonly parts: PlatePart[];
  private prewarm: ShaderPrewarm | null = null;

  constructor(
    canvas: HTMLCanvasElement,
    readonly host: PlateHost,
    partsOfKinds: PartOf[],
  ) {
    this.eye = new Eye(canvas, this.machine);
    this.stage = new Stage(this.eye, this.machine);
    this.surfaces = new OwnersPart(this);
    this.parts = [this.surfaces, ...partsOfKinds.map((Part) => new Part(this))];
    this.frames = new Frames(this.eye, this.stage, this.machine, this.parts);
    this.picker = new Picker(this.eye, this.owners);
    this.eye.floor = (x, z) => this.picker.groundHeight(x, z);
    this.frames.onShown = () => {
      this.prewarm?.dispose();
      void this.sharpen();
      this.frames.stillSoon();
    };
    this.frames.onStill = () => void this.sharpenNear();
  }

  get owners() {
    return this.surfaces.owners;
  }

  groundMesh() {
    return this.owners.get('ground')?.mesh ?? null;
  }

  /** The part of this class. */
  part<T extends PlatePart>(of: PartOf<T>): T {
    const found = this.parts.find((part) => part instanceof of);
    if (!found) throw new Error(`the plate has no ${of.name}`);
    return found as T;
  }

  setAssets(list: Asset[]) {
    this.assets = new Map(list.map((asset) => [asset.id, asset]));
    this.parts.forEach((part) => part.setAssets?.(list));
  }

  /** Fetch and show whatever changed since the last manifest. */
  async sync(manifest: Manifest, plans: Plans) {
    this.surfaces.takePlans(manifest, plans);
    this.stage.store.setInfos(manifest.materials);
    if (this.parts.map((part) => part.anew?.(plans)).some(Boolean)) this.frames.hurry();
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
    const others = this.parts.filter((part) => part !== this.surfaces);
    const sync = (part: PlatePart) => part.sync(manifest, plans);
    const beside = Promise.all(others.filter((part) => !part.upon).map(sync));
    // The first of them that fails ends this, and says so for all.
    beside.catch(() => undefined);
    await this.surfaces.sync(manifest, plans);
    if (frames.opening && (await Promise.race([beside, later(PATIENCE)])) === undefined) {
      // Ground and structures first, where plants are long in coming.
      frames.applyView();
      frames.render();
    }
    await beside;
    await Promise.all(others.filter((part) => part.upon).map(sync));
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
      this.host.say(sentence(error));
    }
  }

  /** Finest pictures for what is looked at closely. */
  private async sharpenNear() {
    try {
      const changed = await Promise.all([
        this.stage.store.sharpenNear(this.surfaces.materialsNear()),
        this.surfaces.pages.fetchNear(),
      ]);
      if (changed.some(Boolean) && !this.frames.disposed) {
        this.frames.redraw();
        await this.frames.drawnNext();
      }
      this.eye.canvas.dataset.near = this.stage.store.nearNow.join(' ');
      this.eye.canvas.dataset.pages = this.surfaces.pages.shown.join(' ');
    } catch (error) {
      // Asked for again when the eye rests the next time.
      this.host.say(sentence(error));
    }
  }

  dispose() {
    this.frames.dispose();
    this.parts.forEach((part) => part.dispose());
    this.stage.dispose();
    this.prewarm?.dispose();
    this.eye.dispose();
  }
}
