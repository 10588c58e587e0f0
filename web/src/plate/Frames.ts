import * as THREE from 'three';
import type { Eye } from './Eye';
import type { Care, Machine } from './machine';
import type { PlatePart, Seen } from './PlatePart';
import { CHANGING } from './StaticFrameCache';
import type { Stage } from './Stage';
import { showView, views, type View } from './views';

export interface Counts {
  things: number;
  triangles: number;
  drawn: number;
  ms: number;
}

/** A full picture is drawn when nothing has moved for so long, milliseconds. */
const REST = 900;
/** What is near gets its finest pictures when the eye has rested for so long. */
const STILL = 500;
/** Pictures that follow a handle get fewer pixels where they take longer than this, and more where they take less. */
const SLOW_TO_FOLLOW = 80,
  QUICK_TO_FOLLOW = 25;

/** Drawing: one frame when something has changed, within what the machine can do. */
export class Frames {
  onFrame: (counts: Counts) => void = () => undefined;
  /** Nothing has moved for a moment. */
  onStill: () => void = () => undefined;
  /** The first full picture of the site stands. */
  onShown: () => void = () => undefined;

  readonly seen: Seen = { view: 'lit', maskOf: null, subject: '' };
  /** Until all of a site has come for the first time; what is there is drawn already, without waiting for it. */
  opening = true;
  shown = false;
  disposed = false;
  arrangeWanted = true;
  shadowWanted = true;
  /** What has changed since the last picture; null when anything may have. */
  private changed: Set<THREE.Object3D> | null = null;
  private scheduled = 0;
  private dragging = false;
  private drawn = { things: 0, triangles: 0, all: 0 };
  private settleTimer = 0;
  private stillTimer = 0;
  private settling = false;
  private hurrying = false;
  private sharpness = 1;
  /** What pictures wait for: the newest of the works that were begun. */
  private held: object | null = null;
  private awaiting: (() => void)[] = [];
  /** Sharpness of pictures that follow a handle. */
  private following = 1;

  constructor(
    private eye: Eye,
    private stage: Stage,
    private machine: Machine,
    private parts: PlatePart[],
  ) {
    eye.onMove = () => {
      this.arrangeWanted = true;
      this.redraw();
      this.stillSoon();
    };
    eye.onStay = () => {
      this.contentChanged();
      this.stillSoon();
    };
  }

  dispose() {
    this.disposed = true;
    window.clearTimeout(this.settleTimer);
    window.clearTimeout(this.stillTimer);
  }

  /** Say when the eye has rested for a moment. */
  stillSoon() {
    window.clearTimeout(this.stillTimer);
    this.stillTimer = window.setTimeout(() => {
      if (this.shown || !this.machine.settles) this.onStill();
    }, STILL);
  }

  // Asking for pictures ------------------------------------------------------------------------------------

  /** Ask for one frame; several asks before it make one frame. */
  draw() {
    if (this.disposed) return;
    this.eye.canvas.dataset.settled = 'false';
    if (this.scheduled || this.held) return;
    this.scheduled = requestAnimationFrame(() => {
      this.scheduled = 0;
      if (!this.disposed) this.render();
    });
  }

  /** Is a frame about to be drawn? */
  get due() {
    return this.scheduled !== 0;
  }

  /** Do several changes and draw once after them. An older work that hangs keeps no picture of a newer one back. */
  async together(work: () => Promise<unknown>) {
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

  /** All of it looks different at once: where pictures are slow, a quick one first and the full one when it is made. */
  hurry() {
    this.hurrying = true;
    this.redraw();
  }

  contentChanged() {
    this.arrangeWanted = true;
    this.shadowWanted = true;
    this.redraw();
  }

  /** One thing has changed and all else has not. */
  thingChanged(thing: THREE.Object3D) {
    this.arrangeWanted = true;
    this.changed?.add(thing);
    this.draw();
  }

  /** Resolves when what was asked for so far has been drawn. */
  drawnNext(): Promise<void> {
    return new Promise((told) => {
      this.awaiting.push(told);
      this.draw();
    });
  }

  /** The item being worked on; its picture can then follow a handle without all else being drawn again. */
  setSubject(key: string) {
    if (this.seen.subject === key) return;
    this.seen.subject = key;
    if (this.seen.view === 'density') this.contentChanged();
    if (this.machine.settles && this.shown) this.settleSoon();
  }

  setView(view: View, maskOf: string | null) {
    const same = view === this.seen.view && (view !== 'mask' || maskOf === this.seen.maskOf);
    Object.assign(this.seen, { view, maskOf });
    this.applyView();
    if (same) return;
    this.arrangeWanted = true;
    this.redraw();
  }

  applyView() {
    showView(this.seen.view);
    this.stage.applyView(this.seen.view);
    this.parts.forEach((part) => part.applyView?.(this.seen));
  }

  /** While a slider or handle is dragged a slow machine draws less, so that the picture follows. */
  setDragging(dragging: boolean) {
    if (this.dragging === dragging) return;
    this.dragging = dragging;
    if (this.stage.backdrop?.holds && this.changed) {
      if (!dragging) this.settleSoon();
      return;
    }
    this.arrangeWanted = true;
    this.draw();
  }

  /** Where full pictures come later, ask for the next one. */
  settleSoon() {
    window.clearTimeout(this.settleTimer);
    this.eye.canvas.dataset.settled = 'false';
    this.settleTimer = window.setTimeout(() => {
      const coming = this.parts.some((part) => part.finer?.());
      if (this.dragging || this.eye.turning || this.held || coming || this.disposed) return;
      this.settling = true;
      this.draw();
    }, REST);
  }

  // Drawing them ---------------------------------------------------------------------------------------------

  render() {
    const { machine, eye } = this;
    if (this.opening && !this.parts.some((part) => part.groups?.().length)) return;
    const started = performance.now();
    const settled = this.settling;
    this.settling = false;
    const over = settled ? null : this.overBackdrop();
    // Where they settle, the first pictures are quick ones too: they show the site early and are then made full.
    const first = machine.settles && !this.shown;
    const hurried = first || this.hurrying || eye.turning || (this.dragging && !this.changing().size);
    const care: Care = settled ? 'settled' : !over && machine.settles && hurried ? 'quick' : 'usual';
    if (over) this.drawOver(over);
    else {
      this.drawWhole(care);
      // Ground may have risen under what is marked.
      eye.tell();
    }
    if (!this.opening && machine.waits(eye.turning, this.drawn.triangles)) {
      // Reading one pixel waits for the picture, so that the time counted is the time it took.
      eye.renderer.getContext().readPixels(0, 0, 1, 1, 6408, 5121, new Uint8Array(4));
    }
    const ms = performance.now() - started;
    this.tellCounts(ms, settled || !machine.settles);
    machine.took(ms);
    if (over && this.dragging) this.keepUp(ms);
    if (this.opening) return;
    if (first) {
      this.shown = this.shadowWanted = this.arrangeWanted = true;
      this.onShown();
    }
    if (machine.settles && (care !== 'quick' || first || this.hurrying) && !settled) this.settleSoon();
    if (!over) this.hurrying = false;
    this.awaiting.splice(0).forEach((told) => told());
  }

  private tellCounts(ms: number, settled: boolean) {
    const { dataset } = this.eye.canvas;
    dataset.settled = String(settled);
    dataset.took = `${dataset.took ?? ''} ${Math.round(ms)}`.slice(-60);
    dataset.frames = String(Number(dataset.frames ?? 0) + 1);
    this.onFrame({ things: this.drawn.things, triangles: Math.round(this.drawn.triangles), drawn: this.drawn.all, ms });
  }

  /** The groups that change with the subject. */
  private changing(): Set<THREE.Object3D> {
    return new Set(this.parts.flatMap((part) => part.changing?.(this.seen.subject) ?? []));
  }

  /** What has to be drawn over the backdrop, or null if the whole picture has to be. */
  private overBackdrop(): Set<THREE.Object3D> | null {
    const { backdrop } = this.stage;
    const leftOut = backdrop?.holds ? backdrop.leftOut : null;
    if (!leftOut || !this.changed) return null;
    for (const thing of this.changed) if (!leftOut.has(thing)) return null;
    return leftOut;
  }

  /** Draw only what changes, in front of and behind all that stays. */
  private drawOver(changing: Set<THREE.Object3D>) {
    const { scene, tools, backdrop } = this.stage;
    const { renderer, camera } = this.eye;
    this.setSharpness(this.dragging ? this.following : 1);
    const moved = [...changing].filter((group) => this.arrangeWanted || this.changed?.has(group));
    this.parts.forEach((part) => part.follow?.(new Set(moved), this.seen));
    this.arrangeWanted = false;
    const overlays = new Set(this.parts.flatMap((part) => part.overlays?.() ?? []));
    const hidden = scene.children.filter(
      (o) => o.visible && !changing.has(o) && !overlays.has(o) && o !== tools && !(o as THREE.Light).isLight,
    );
    hidden.forEach((o) => (o.visible = false));
    const background = scene.background;
    scene.background = null;
    renderer.autoClear = false;
    backdrop!.restore();
    renderer.render(scene, camera);
    renderer.autoClear = true;
    scene.background = background;
    hidden.forEach((o) => (o.visible = true));
  }

  private drawWhole(care: Care) {
    const { machine, stage, eye } = this;
    const { backdrop } = stage;
    const quick = care === 'quick';
    this.setSharpness(machine.sharpness(care, eye.turning || this.dragging));
    const changing = backdrop ? this.changing() : new Set<THREE.Object3D>();
    for (const part of this.parts)
      for (const group of part.groups?.() ?? []) group.renderOrder = changing.has(group) ? CHANGING : 0;
    if (this.arrangeWanted || care === 'settled') this.arrange(care);
    stage.placeSun();
    if (this.shadowWanted && !quick) {
      eye.renderer.shadowMap.needsUpdate = true;
      this.shadowWanted = false;
    }
    const lit = views[this.seen.view].sky || views[this.seen.view].clay;
    eye.renderer.toneMapping = lit ? THREE.NeutralToneMapping : THREE.NoToneMapping;
    if (backdrop) {
      backdrop.marker.visible = !quick;
      backdrop.leftOut = quick ? null : changing;
    }
    this.changed = new Set();
    eye.renderer.render(stage.scene, eye.camera);
    this.drawn.all = eye.renderer.info.render.triangles;
  }

  private arrange(care: Care) {
    this.arrangeWanted = false;
    const found = this.parts.map((part) => part.arrange?.(this.machine.spend(care), care === 'quick', this.seen));
    const sum = (of: 'things' | 'triangles') => found.reduce((total, one) => total + (one?.[of] ?? 0), 0);
    this.drawn = { ...this.drawn, things: sum('things'), triangles: sum('triangles') };
  }

  private setSharpness(share: number) {
    if (this.sharpness === share) return;
    this.sharpness = share;
    this.eye.sharpen(share);
  }

  /** Where pictures cannot keep up with the hand, they have fewer pixels until it rests. */
  private keepUp(ms: number) {
    if (ms > SLOW_TO_FOLLOW) this.following = Math.max(0.5, this.following * 0.7);
    else if (ms < QUICK_TO_FOLLOW) this.following = Math.min(1, this.following / 0.7);
  }
}
