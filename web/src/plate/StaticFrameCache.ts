import * as THREE from 'three';

/**
 * The picture and its depths as they were before the things that are being changed were drawn.
 *
 * Where no graphics card helps, a frame takes seconds. While one drift, patina, decal or piece is changed, all else
 * stays: it is put back from here, and only what changes is drawn again, in front of it and behind it as it should be.
 */
export class StaticFrameCache {
  /** What was left out of it; null while there is nothing to go back to. */
  leftOut: Set<THREE.Object3D> | null = null;
  /** Drawn after all that stays and before what is left out: the moment to keep the picture. */
  readonly marker = new THREE.Group();
  private frame: WebGLFramebuffer | null = null;
  private size: [number, number] = [0, 0];
  private usable = true;
  private gl: WebGL2RenderingContext;

  /** `idle`: any material that is in use anyway; nothing is drawn with it. */
  constructor(renderer: THREE.WebGLRenderer, idle: THREE.Material) {
    this.gl = renderer.getContext() as WebGL2RenderingContext;
    const empty = new THREE.Mesh(new THREE.BufferGeometry(), idle);
    empty.geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(9), 3));
    empty.geometry.setAttribute('uv', new THREE.BufferAttribute(new Float32Array(6), 2));
    empty.frustumCulled = false;
    empty.onBeforeRender = () => this.keep();
    this.marker.add(empty);
    this.marker.renderOrder = BEHIND_CHANGING;
    this.marker.visible = false;
  }

  /** Nothing that was kept holds any longer. */
  drop() {
    this.leftOut = null;
  }

  private keep() {
    if (this.usable && this.made()) this.copy(null, this.frame);
  }

  /** Put the kept picture and depths back, into a picture that may be smaller now. */
  restore() {
    this.copy(this.frame, null);
  }

  private copy(from: WebGLFramebuffer | null, to: WebGLFramebuffer | null) {
    const { gl } = this;
    const now: [number, number] = [gl.drawingBufferWidth, gl.drawingBufferHeight];
    const source = from ? this.size : now,
      target = to ? this.size : now;
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, from);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, to);
    // Depths cannot be mixed, colours can.
    gl.blitFramebuffer(0, 0, ...source, 0, 0, ...target, gl.COLOR_BUFFER_BIT, gl.LINEAR);
    gl.blitFramebuffer(0, 0, ...source, 0, 0, ...target, gl.DEPTH_BUFFER_BIT, gl.NEAREST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  }

  /** A frame buffer of the picture's size, whose depths have the canvas's own format: others cannot be copied. */
  private made(): boolean {
    const { gl } = this;
    const { drawingBufferWidth: width, drawingBufferHeight: height } = gl;
    if (this.size[0] === width && this.size[1] === height) return true;
    this.size = [width, height];
    for (const [format, attachment] of [
      [gl.DEPTH24_STENCIL8, gl.DEPTH_STENCIL_ATTACHMENT],
      [gl.DEPTH_COMPONENT24, gl.DEPTH_ATTACHMENT],
      [gl.DEPTH_COMPONENT16, gl.DEPTH_ATTACHMENT],
      [gl.DEPTH32F_STENCIL8, gl.DEPTH_STENCIL_ATTACHMENT],
    ]) {
      this.deleteBuffers();
      this.frame = gl.createFramebuffer();
      gl.bindFramebuffer(gl.FRAMEBUFFER, this.frame);
      this.attach(gl.RGBA8, gl.COLOR_ATTACHMENT0);
      this.attach(format, attachment);
      gl.bindRenderbuffer(gl.RENDERBUFFER, null);
      while (gl.getError() !== gl.NO_ERROR);
      this.copy(null, this.frame);
      if (gl.getError() === gl.NO_ERROR) return true;
    }
    this.usable = false;
    return false;
  }

  private buffers: WebGLRenderbuffer[] = [];

  private deleteBuffers() {
    this.gl.deleteFramebuffer(this.frame);
    this.buffers.forEach((buffer) => this.gl.deleteRenderbuffer(buffer));
    this.buffers = [];
    this.frame = null;
  }

  dispose() {
    this.deleteBuffers();
  }

  private attach(format: number, attachment: number) {
    const { gl } = this;
    const buffer = gl.createRenderbuffer();
    this.buffers.push(buffer);
    gl.bindRenderbuffer(gl.RENDERBUFFER, buffer);
    gl.renderbufferStorage(gl.RENDERBUFFER, format, ...this.size);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, attachment, gl.RENDERBUFFER, buffer);
  }

  get holds(): boolean {
    return this.usable && this.leftOut !== null;
  }
}

/** Groups are drawn in this order: what stays, the capture marker, what is being changed, tools. */
const BEHIND_CHANGING = 9;
export const CHANGING = 10;
export const TOOLS = 20;
