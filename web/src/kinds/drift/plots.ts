import { letGo } from './worn';
import * as THREE from 'three';
import { unpack, type Packet } from '../../api/packet';

/** What is known of a plot before it comes; see core/cenote_core/drifts/plots.py. */
export interface PlotEntry {
  cell: string;
  v: string;
  low: [number, number, number];
  high: [number, number, number];
  count: number;
}

/** A plot of ground with what stands on it of one drift; every beginning of it is evenly spread. */
export interface Plot extends PlotEntry {
  /** Around the feet. */
  box: THREE.Box3;
  position: Float32Array;
  scale: Float32Array;
  asset: Uint8Array;
  largest: number;
  /** Column by column, as WebGL takes them; made when first drawn. */
  matrices: () => Float32Array;
  colours: () => Float32Array;
  identity: (n: number) => string;
  /** The plot at its last level of detail, kept from picture to picture. */
  far: { look: string; batches: MergedBatch[] } | null;
}

/** All of one asset on a plot at its last level of detail: a mesh a part, and which of the plot's things they are. */
export interface MergedBatch {
  meshes: THREE.InstancedMesh[];
  members: number[];
  faces: number;
}

const MIRRORED = 128;

/** The plots that came along in a drift's packet. */
export function plotsIn(packet: Packet): Plot[] {
  const entries = packet.info.plots as PlotEntry[];
  return entries
    .filter((entry) => packet.arrays[entry.cell])
    .map((entry) => plotOf(entry, packet.arrays[entry.cell] as Uint8Array));
}

export function plotOf(entry: PlotEntry, data: Uint8Array): Plot {
  const { arrays, info } = unpack(data.slice().buffer);
  const { place, size, kind, turn, tint, identity } = arrays;
  const low = info.low as number[],
    high = info.high as number[],
    largest = info.largest as number;
  const count = size.length;
  const position = new Float32Array(count * 3),
    scale = new Float32Array(count),
    asset = new Uint8Array(count);
  for (let k = 0; k < 3; k++) {
    const step = (high[k] - low[k]) / 65535;
    for (let n = k; n < count * 3; n += 3) position[n] = low[k] + place[n] * step;
  }
  for (let n = 0; n < count; n++) {
    scale[n] = (size[n] * largest) / 65535;
    asset[n] = kind[n] & (MIRRORED - 1);
  }
  let matrices: Float32Array | null = null;
  let colours: Float32Array | null = null;
  return {
    ...entry,
    position,
    scale,
    asset,
    largest,
    far: null,
    box: new THREE.Box3(new THREE.Vector3(...entry.low), new THREE.Vector3(...entry.high)),
    matrices: () => (matrices ??= matricesOf(position, scale, turn as Uint32Array, kind as Uint8Array)),
    colours: () => (colours ??= Float32Array.from(tint as Uint8Array, (v) => (v * (info.brightest as number)) / 255)),
    identity: (n) => hex(identity[n * 2 + 1]) + hex(identity[n * 2]),
  };
}

const hex = (v: number) => v.toString(16).padStart(8, '0');

/** From the packed turns ("smallest three") and sizes; a mirrored one has its own x the other way. */
function matricesOf(position: Float32Array, scale: Float32Array, turn: Uint32Array, kind: Uint8Array): Float32Array {
  const out = new Float32Array(scale.length * 16);
  const q = [0, 0, 0, 0];
  for (let n = 0; n < scale.length; n++) {
    const largest = turn[n] >>> 30;
    let left = 1;
    for (let k = 0; k < 3; k++) {
      const part = ((((turn[n] >>> (10 * k)) & 1023) / 1023) * 2 - 1) * Math.SQRT1_2;
      q[(largest + 1 + k) % 4] = part;
      left -= part * part;
    }
    q[largest] = Math.sqrt(Math.max(0, left));
    const [x, y, z, w] = q;
    const s = scale[n],
      over = kind[n] >= MIRRORED ? -s : s,
      at = n * 16;
    out[at] = (1 - 2 * (y * y + z * z)) * over;
    out[at + 1] = 2 * (x * y + z * w) * over;
    out[at + 2] = 2 * (x * z - y * w) * over;
    out[at + 4] = 2 * (x * y - z * w) * s;
    out[at + 5] = (1 - 2 * (x * x + z * z)) * s;
    out[at + 6] = 2 * (y * z + x * w) * s;
    out[at + 8] = 2 * (x * z + y * w) * s;
    out[at + 9] = 2 * (y * z - x * w) * s;
    out[at + 10] = (1 - 2 * (x * x + y * y)) * s;
    out[at + 12] = position[n * 3];
    out[at + 13] = position[n * 3 + 1];
    out[at + 14] = position[n * 3 + 2];
    out[at + 15] = 1;
  }
  return out;
}

export function disposePlot(plot: Plot) {
  plot.far?.batches.forEach(({ meshes }) => meshes.forEach(letGo));
  plot.far = null;
}
