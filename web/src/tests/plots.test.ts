import * as THREE from 'three';
import { describe, expect, test } from 'vitest';
import { unpack } from '../api/packet';
import { plotOf, plotsIn, type PlotEntry } from '../kinds/drift/plots';
import { bytes, figures } from './figures';

const { plot: known } = figures;
const entry: PlotEntry = { cell: 'all', v: 'x', low: known.low, high: known.high, count: known.placed.length };
const plot = plotOf(entry, new Uint8Array(bytes('plot.bin')));

describe('a packet', () => {
  test('holds every type of array as the core packed it', () => {
    const { arrays, shapes, info } = unpack(bytes('packet.bin'));
    expect(info).toEqual({ word: 'Ä ₂', list: [1, 2] });
    expect(Object.values(shapes)).toEqual(Array(5).fill([2, 3]));
    expect(Object.values(arrays).map((a) => a.constructor.name)).toEqual([
      'Float32Array',
      'Int32Array',
      'Uint32Array',
      'Uint16Array',
      'Uint8Array',
    ]);
    for (const array of Object.values(arrays)) expect([...array]).toEqual([0, 1, 2, 3, 4, 5]);
  });
});

describe('a plot', () => {
  test('puts each instance where the core puts it, mirrored ones too', () => {
    const matrices = plot.matrices();
    const matrix = new THREE.Matrix4();
    known.placed.forEach((wanted, n) => {
      const found = new THREE.Vector3(...(known.point as [number, number, number])).applyMatrix4(
        matrix.fromArray(matrices, n * 16),
      );
      // Turns are off by less than 0.3°, places by half a step of the box.
      expect(found.distanceTo(new THREE.Vector3(...(wanted as [number, number, number])))).toBeLessThan(0.03);
    });
  });

  test('its matrices turn and size, and shear nothing', () => {
    const matrices = plot.matrices();
    for (let n = 0; n < plot.count; n++) {
      const axes = [0, 4, 8].map((at) => new THREE.Vector3().fromArray(matrices, n * 16 + at));
      for (const axis of axes) expect(axis.length()).toBeCloseTo(plot.scale[n], 4);
      expect(axes[0].dot(axes[1])).toBeCloseTo(0, 4);
      expect(axes[1].dot(axes[2])).toBeCloseTo(0, 4);
    }
  });

  test('keeps kinds, identities and tints', () => {
    expect([...plot.asset]).toEqual(known.assets);
    expect(known.identities.map((_, n) => plot.identity(n))).toEqual(known.identities);
    const colours = plot.colours();
    known.tints.flat().forEach((tint, k) => expect(Math.abs(colours[k] - tint)).toBeLessThan(1.4 / 255));
  });

  test('its box holds all feet', () => {
    const room = plot.box.clone().expandByScalar(1e-4);
    for (let n = 0; n < plot.count; n++)
      expect(room.containsPoint(new THREE.Vector3().fromArray(plot.position, n * 3))).toBe(true);
  });

  test('only those that came along are taken from a packet', () => {
    const data = new Uint8Array(bytes('plot.bin'));
    const other = { ...entry, cell: '8_1_1' };
    const found = plotsIn({ arrays: { all: data }, shapes: {}, info: { plots: [entry, other] } });
    expect(found.map((p) => p.cell)).toEqual(['all']);
  });
});
