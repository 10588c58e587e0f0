import * as THREE from 'three';
import type { Manifest } from '../../api/client';
import { unpack } from '../../api/packet';
import { fetchPart } from '../../api/parts';
import { geometryOf } from '../../plate/geometry';
import { openWaterMaterial, setOpenWater } from '../../plate/openWater';
import type { PlateContext } from '../../plate/PlateContext';
import type { PlatePart, Seen } from '../../plate/PlatePart';
import { views } from '../../plate/views';
import { takeWaters, type Lying } from '../../plate/waterLight';

interface WaterView {
  wanted: string;
  shown: string;
  mesh: THREE.Mesh | null;
  material: THREE.Material;
  pattern: string;
  thrown: Lying | null;
}

/** Still and running water of the ground's forms. */
export class WatersPart implements PlatePart {
  readonly upon = true;
  private waters = new Map<number, WaterView>();
  /** Of what the light on what is near by was made. */
  private lit = '[]';

  constructor(private plate: PlateContext) {}

  overlays() {
    return [...this.waters.values()].flatMap(({ mesh }) => mesh ?? []);
  }

  applyView({ view }: Seen) {
    for (const mesh of this.overlays()) mesh.visible = view === 'lit' || views[view].decals;
  }

  async sync(manifest: Manifest) {
    const wanted = new Set(manifest.waters.map(({ number }) => number));
    for (const [number, water] of this.waters)
      if (!wanted.has(number)) {
        this.drop(water);
        this.waters.delete(number);
        this.plate.frames.contentChanged();
      }
    await Promise.all(
      manifest.waters.map(async (entry) => {
        const water = this.view(entry.number);
        setOpenWater(water.material, entry);
        await this.fetch(water, entry.url);
        await this.throwLight(water, entry);
      }),
    );
    this.light();
    if (wanted.size) this.plate.frames.redraw();
  }

  private view(number: number): WaterView {
    const { mirrored, sunSeen } = this.plate.stage;
    const known = this.waters.get(number) ?? {
      wanted: '',
      shown: '',
      mesh: null,
      material: openWaterMaterial(mirrored, sunSeen),
      pattern: '',
      thrown: null,
    };
    this.waters.set(number, known);
    return known;
  }

  private async fetch(water: WaterView, url: string) {
    water.wanted = url;
    if (water.shown === url) return;
    const packet = unpack(await fetchPart(url));
    // An answer that was overtaken is none.
    if (water.wanted !== url) return;
    this.drop(water, false);
    water.shown = url;
    const geometry = geometryOf(packet);
    if (geometry) {
      geometry.clearGroups();
      for (const name of ['depth', 'foam'])
        geometry.setAttribute(name, new THREE.BufferAttribute(packet.arrays[name] as Float32Array, 1));
      water.mesh = new THREE.Mesh(geometry, water.material);
      this.plate.stage.scene.add(water.mesh);
    }
    this.plate.frames.contentChanged();
  }

  /** What a water mirrors onto what is near by. */
  private async throwLight(water: WaterView, { pattern, light }: Manifest['waters'][number]) {
    const positions = water.mesh?.geometry.getAttribute('position').array as Float32Array | undefined;
    if (!positions || light <= 0) {
      water.thrown = null;
      return;
    }
    if (!water.thrown || water.pattern !== pattern) {
      water.thrown = null;
      water.pattern = pattern;
      const { arrays, info } = unpack(await fetchPart(pattern));
      if (water.pattern !== pattern) return;
      const levers = info.levers as number[];
      const planes = arrays.planes as Uint8Array;
      const side = Math.sqrt(planes.length / levers.length);
      const [tile, mirrored, brightest] = [info.tile, info.mirrored, info.brightest] as number[];
      water.thrown = { positions, light, planes, side, levers, tile, mirrored, brightest };
    }
    Object.assign(water.thrown, { positions, light });
  }

  private light() {
    const lying = [...this.waters.values()].flatMap(({ thrown }) => thrown ?? []);
    const same = JSON.stringify([...this.waters.values()].map((w) => [w.shown, w.pattern, w.thrown?.light]));
    if (same === this.lit) return;
    this.lit = same;
    takeWaters(lying);
    this.plate.frames.contentChanged();
  }

  dispose() {
    takeWaters([]);
    this.waters.forEach((water) => this.drop(water));
  }

  private drop(water: WaterView, whole = true) {
    water.mesh?.removeFromParent();
    water.mesh?.geometry.dispose();
    water.mesh = null;
    if (whole) water.material.dispose();
  }
}
