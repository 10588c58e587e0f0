import * as THREE from 'three';
import { grassOf } from '../api/tufts';
import { CHANGING } from './Backdrop';
import { build, survey, type DriftView } from './drifts';
import type { SurfaceMaterial } from './materials';
import { Pace } from './pace';
import { countInto } from './density';
import { PlateStage } from './PlateStage';
import { showView, views, type View } from './views';

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

/** So many triangles of the drift being worked on are drawn while a handle is dragged, at least. */
const ONE_DRIFT = 40_000;
/** Detail of pictures that have to be quick where no graphics card helps. */
const COARSE = 0.02;
/** Detail of pictures that need not be. */
const IN_SOFTWARE = 0.12;
/** Detail of the one drift that follows a handle there. */
const FOLLOWING = 0.05;

/** Camera and drawing: one frame when something has changed, within what the machine can do. */
export abstract class PlateView extends PlateStage {
  onFrame: (counts: Counts) => void = () => undefined;

  /** The item being worked on: a drift, patina, decal or piece. */
  protected subject = '';
  /** What has changed since the last picture; null when anything may have. */
  protected changed: Set<THREE.Object3D> | null = null;
  protected view: View = 'lit';
  protected maskOf: string | null = null;
  protected readonly pace = new Pace();
  protected arrangeWanted = true;
  protected shadowWanted = true;
  protected scheduled = 0;
  protected dragging = false;
  protected drawn = { things: 0, triangles: 0, all: 0 };
  protected settleTimer = 0;

  dispose() {
    window.clearTimeout(this.settleTimer);
    super.dispose();
  }

  protected moved() {
    super.moved();
    this.arrangeWanted = true;
    this.redraw();
  }

  protected came() {
    this.contentChanged();
  }

  // Drawing ----------------------------------------------------------------------------------------------

  /** Ask for one frame; several asks before it make one frame. */
  draw() {
    if (this.scheduled || this.disposed || this.held) return;
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0;
      if (!this.disposed) this.render();
    });
  }

  /** What pictures wait for: the newest of the works that were begun. */
  protected held: object | null = null;

  /** Do several changes and draw once after them. An older work that hangs keeps no picture of a newer one back. */
  protected async together(work: () => Promise<unknown>) {
    const mine = {};
    this.held = mine;
    try {
      await work();
    } finally {
      if (this.held === mine) this.held = null;
      this.draw();
    }
  }

  /** Draw anew: anything may have changed. */
  redraw() {
    this.changed = null;
    this.draw();
  }

  contentChanged() {
    this.arrangeWanted = true;
    this.shadowWanted = true;
    this.redraw();
  }

  /** One thing has changed and all else has not. */
  protected thingChanged(thing: THREE.Object3D) {
    this.arrangeWanted = true;
    this.changed?.add(thing);
    this.draw();
  }

  /** The item being worked on; its picture can then follow a handle without all else being drawn again. */
  setSubject(key: string) {
    if (this.subject === key) return;
    this.subject = key;
    if (this.view === 'density') this.contentChanged();
    if (this.backdrop && this.shown) this.settleSoon();
  }

  /** The groups that change with the subject. */
  protected changing(): Set<THREE.Object3D> {
    const { subject } = this;
    const found = [this.drifts.get(subject)?.group, this.owners.get(subject)?.group];
    for (const owner of this.owners.values()) if (owner.coverOrder.includes(subject)) found.push(owner.group);
    for (const drift of this.drifts.values())
      if (drift.assets.some((id) => grassOf(id) === subject)) found.push(drift.group);
    return new Set(found.filter((group) => group !== undefined));
  }

  /** While a slider or handle is dragged a slow machine draws less, so that the picture follows. */
  setDragging(dragging: boolean) {
    if (this.dragging === dragging) return;
    this.dragging = dragging;
    if (this.backdrop?.holds && this.changed) {
      if (!dragging) this.settleSoon();
      return;
    }
    this.arrangeWanted = true;
    this.draw();
  }

  protected render() {
    if (this.opening && !this.owners.size) return;
    const started = performance.now();
    const settled = this.settling;
    this.settling = false;
    const over = !settled && this.overBackdrop();
    // In software the first pictures are quick ones too: they show the site early and are then made full.
    const first = this.software && !this.shown;
    const quick = !over && this.software && (first || this.turning || (this.dragging && !this.changing().size));
    if (over) this.drawOver(over);
    else {
      this.drawWhole(quick, settled);
      // Ground may have risen under what is marked.
      this.tell();
    }
    if (!this.opening && (this.software || this.turning || this.drawn.triangles > 500_000)) {
      // Reading one pixel waits for the picture, so that the time counted is the time it took.
      this.renderer.getContext().readPixels(0, 0, 1, 1, 6408, 5121, new Uint8Array(4));
    }
    const ms = performance.now() - started;
    this.canvas.dataset.settled = String(settled || !this.software);
    this.canvas.dataset.took = `${this.canvas.dataset.took ?? ''} ${Math.round(ms)}`.slice(-60);
    this.canvas.dataset.frames = String(Number(this.canvas.dataset.frames ?? 0) + 1);
    this.onFrame({ things: this.drawn.things, triangles: Math.round(this.drawn.triangles), drawn: this.drawn.all, ms });
    if (!this.software) this.pace.frame(ms);
    if (over && this.dragging) this.keepUp(ms);
    if (this.opening) return;
    if (first) {
      this.shown = this.shadowWanted = this.arrangeWanted = true;
      this.rehearsal?.dispose();
      void this.sharpen();
    }
    if (this.software && (!quick || first) && !settled) this.settleSoon();
    this.awaiting.splice(0).forEach((told) => told());
  }

  private awaiting: (() => void)[] = [];

  /** Resolves when what was asked for so far has been drawn. */
  drawnNext(): Promise<void> {
    return new Promise((told) => {
      this.awaiting.push(told);
      this.draw();
    });
  }

  /** What has to be drawn over the backdrop, or null if the whole picture has to be. */
  protected overBackdrop(): Set<THREE.Object3D> | null {
    const leftOut = this.backdrop?.holds ? this.backdrop.leftOut : null;
    if (!leftOut || !this.changed) return null;
    for (const thing of this.changed) if (!leftOut.has(thing)) return null;
    return leftOut;
  }

  /** Draw only what changes, in front of and behind all that stays. */
  protected drawOver(changing: Set<THREE.Object3D>) {
    this.setSharpness(this.dragging ? this.following : 1);
    for (const drift of this.drifts.values())
      if (changing.has(drift.group) && (this.arrangeWanted || this.changed?.has(drift.group))) this.arrangeOne(drift);
    this.arrangeWanted = false;
    const decals = new Set([...this.decals.values()].map((d) => d.mesh as THREE.Object3D | null));
    const hidden = this.scene.children.filter(
      (o) => o.visible && !changing.has(o) && !decals.has(o) && o !== this.tools && !(o as THREE.Light).isLight,
    );
    hidden.forEach((o) => (o.visible = false));
    const background = this.scene.background;
    this.scene.background = null;
    this.renderer.autoClear = false;
    this.backdrop!.restore();
    this.renderer.render(this.scene, this.camera);
    this.renderer.autoClear = true;
    this.scene.background = background;
    hidden.forEach((o) => (o.visible = true));
  }

  protected drawWhole(quick: boolean, settled: boolean) {
    const moving = this.turning || this.dragging;
    this.setSharpness(quick ? 0.5 : moving && !this.software ? this.pace.pixels : 1);
    const changing = this.backdrop ? this.changing() : new Set<THREE.Object3D>();
    for (const { group } of [...this.drifts.values(), ...this.owners.values()])
      group.renderOrder = changing.has(group) ? CHANGING : 0;
    if (this.arrangeWanted || settled) this.arrangeDrifts(quick, settled);
    this.placeSun();
    if (this.shadowWanted && !quick) {
      this.renderer.shadowMap.needsUpdate = true;
      this.shadowWanted = false;
    }
    this.renderer.toneMapping =
      this.view === 'lit' || this.view === 'clay' ? THREE.NeutralToneMapping : THREE.NoToneMapping;
    if (this.backdrop) {
      this.backdrop.curtain.visible = !quick;
      this.backdrop.leftOut = quick ? null : changing;
    }
    this.changed = new Set();
    this.renderer.render(this.scene, this.camera);
    this.drawn.all = this.renderer.info.render.triangles;
  }

  protected shown = false;
  protected sharpness = 1;
  protected settling = false;

  protected setSharpness(share: number) {
    if (this.sharpness === share) return;
    this.sharpness = share;
    this.renderer.setPixelRatio(share * this.pixelRatio);
  }

  /** A slow machine draws the full picture once nothing has moved for a moment. */
  protected settleSoon() {
    window.clearTimeout(this.settleTimer);
    this.canvas.dataset.settled = 'false';
    this.settleTimer = window.setTimeout(() => {
      if (this.dragging || this.turning || this.held || this.finerComing || this.disposed) return;
      this.settling = true;
      this.draw();
    }, 900);
  }

  /** Sharpness of pictures that follow a handle. */
  private following = 1;

  /** Where they cannot keep up with the hand, they have fewer pixels until it rests. */
  private keepUp(ms: number) {
    if (ms > 80) this.following = Math.max(0.5, this.following * 0.7);
    else if (ms < 25) this.following = Math.min(1, this.following / 0.7);
  }

  /** The drift being worked on, within what a frame may take while a handle is dragged. */
  protected arrangeOne(drift: DriftView) {
    const seen = (detail: number) =>
      survey(drift, this.assetViews, {
        eye: this.camera.position,
        frustum: this.frustum(),
        detail,
        best: detail,
        shadows: false,
      });
    const found = seen(FOLLOWING);
    build(found.triangles > ONE_DRIFT ? seen(COARSE) : found, 2 * ONE_DRIFT);
    this.countDensity();
  }

  protected arrangeDrifts(quick: boolean, settled: boolean) {
    this.arrangeWanted = false;
    const frustum = this.frustum();
    let things = 0;
    let triangles = 0;
    // Large tiers first: when the budget runs out, ground cover is thinned where it is far off.
    const order = ['canopy', 'shrub', 'litter', 'cover'];
    const budget = this.software ? (quick ? 80_000 : settled ? 900_000 : 200_000) : 6_000_000;
    const usual = this.software ? IN_SOFTWARE : this.pace.detail;
    const best = this.software ? usual * 1.5 : usual;
    const detail = quick ? COARSE : settled ? best : usual;
    for (const drift of [...this.drifts.values()].sort((a, b) => order.indexOf(a.tier) - order.indexOf(b.tier))) {
      const thinned = drift.tier === 'cover' || drift.tier === 'litter';
      const found = survey(drift, this.assetViews, {
        eye: this.camera.position,
        frustum,
        detail,
        best,
        shadows: !quick,
      });
      triangles += build(found, thinned ? Math.max(budget - triangles, budget * 0.15) : Infinity);
      things += drift.count;
      if (views[this.view].clay) drift.group.children.forEach((m) => ((m as THREE.Mesh).material = this.clay));
      drift.group.visible = views[this.view].drifts;
    }
    this.drawn = { ...this.drawn, things, triangles };
    this.countDensity();
    this.fetchFiner();
  }

  /** Fetch the levels of detail that what stands near would have. */
  protected fetchFiner() {}

  /** Pictures of materials in full, where the first picture of the site made do with coarser ones. */
  protected async sharpen() {}

  /** They are on their way; the full picture waits for them. */
  protected finerComing = false;

  setView(view: View, maskOf: string | null) {
    const same = view === this.view && (view !== 'mask' || maskOf === this.maskOf);
    this.view = view;
    this.maskOf = maskOf;
    this.applyView();
    if (same) return;
    this.arrangeWanted = true;
    this.redraw();
  }

  protected applyView() {
    const mode = views[this.view];
    showView(this.view);
    this.dome.visible = mode.sky;
    this.scene.background = new THREE.Color(mode.background);
    this.scene.fog = mode.sky ? this.fog : null;
    for (const [key, owner] of this.owners) {
      if (!owner.mesh) continue;
      const own = owner.mesh.userData.materials as SurfaceMaterial[];
      owner.mesh.material = mode.clay ? own.map(() => this.clay) : own;
      own.forEach(({ userData: { uniforms, keys } }) => {
        uniforms.uMaskLayer.value = this.maskOf ? ((keys ?? []) as string[]).indexOf(this.maskOf) : -1;
        // What stands is counted as seen from above: on the ground alone the count is true.
        uniforms.uDotted.value = key === 'ground' ? 1 : 0;
      });
    }
    for (const decal of this.decals.values()) if (decal.mesh) decal.mesh.visible = mode.decals;
  }

  /** Count what stands of the selected drift, or of all, for the view that shows it. */
  private countDensity() {
    const ground = this.owners.get('ground')?.mesh;
    if (this.view !== 'density' || !ground) return;
    const box = new THREE.Box3().setFromObject(ground).getSize(new THREE.Vector3());
    const shown = this.drifts.has(this.subject) ? [this.drifts.get(this.subject)!] : [...this.drifts.values()];
    const { full } = countInto(
      shown.flatMap((drift) => [...drift.plots.values()].map((plot) => plot.position)),
      [box.x, box.z],
    );
    if (full !== this.counted) this.onDensity((this.counted = full));
  }

  private counted = -1;

  onDensity: (full: number) => void = () => undefined;
}
