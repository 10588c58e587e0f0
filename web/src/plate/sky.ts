import * as THREE from 'three';
import type { Packet } from '../api/packet';

export interface SkyView {
  background: THREE.DataTexture;
  sun: THREE.Vector3;
  sunColour: THREE.Color;
  haze: THREE.Color;
  /** The sky's light as nine spherical harmonics, for machines too slow for the picture itself. */
  ambient: THREE.SphericalHarmonics3;
}

/** The server's sky: shared-exponent bytes, row 0 at the nadir, column 0 north, going east. */
export function skyOf(packet: Packet): SkyView {
  const bytes = packet.arrays.image as Uint8Array;
  const [height, width] = packet.shapes.image;
  const data = new Uint16Array(width * height * 4);
  const one = THREE.DataUtils.toHalfFloat(1);
  const halves = new Map<number, Uint16Array>();
  const ambient = new THREE.SphericalHarmonics3();
  const direction = new THREE.Vector3();
  const basis = new Array<number>(9);
  let weight = 0;
  for (let row = 0; row < height; row++)
    for (let col = 0; col < width; col++) {
      const from = (row * width + col) * 4;
      // Three's equirectangular pictures start at −x and have north (−z) at a quarter of their width.
      const to = (row * width + ((col + Math.floor(width / 4)) % width)) * 4;
      const factor = 2 ** (bytes[from + 3] - 136);
      let half = halves.get(bytes[from + 3]);
      if (!half) halves.set(bytes[from + 3], (half = Uint16Array.from({ length: 256 }, (_, mantissa) => THREE.DataUtils.toHalfFloat(mantissa * factor))));
      for (let c = 0; c < 3; c++) data[to + c] = half[bytes[from + c]];
      data[to + 3] = one;
      if (row % 8 || col % 8) continue;
      const high = ((row + 0.5) / height - 0.5) * Math.PI;
      const around = ((col + 0.5) / width) * 2 * Math.PI;
      direction.set(Math.sin(around) * Math.cos(high), Math.sin(high), -Math.cos(around) * Math.cos(high));
      THREE.SphericalHarmonics3.getBasisAt(direction, basis);
      const area = Math.cos(high);
      weight += area;
      for (let k = 0; k < 9; k++)
        ambient.coefficients[k].add(new THREE.Vector3(bytes[from], bytes[from + 1], bytes[from + 2]).multiplyScalar(factor * basis[k] * area));
    }
  ambient.scale((4 * Math.PI) / weight);
  const background = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.HalfFloatType);
  background.mapping = THREE.EquirectangularReflectionMapping;
  background.colorSpace = THREE.LinearSRGBColorSpace;
  background.minFilter = background.magFilter = THREE.LinearFilter;
  background.wrapS = THREE.RepeatWrapping;
  // A sphere seen from inside runs the other way round.
  background.repeat.x = -1;
  background.offset.x = 1;
  background.needsUpdate = true;
  const info = packet.info as { sun: number[]; sunColour: number[]; haze: number[] };
  const linear = (c: number[]) => new THREE.Color().setRGB(c[0], c[1], c[2], THREE.LinearSRGBColorSpace);
  return { background, sun: new THREE.Vector3(...info.sun), sunColour: linear(info.sunColour), haze: linear(info.haze), ambient };
}

/** The sky as a dome about the eye. As a background three would first turn it into six pictures, which takes a slow machine long. */
export function skyDome(): THREE.Mesh<THREE.SphereGeometry, THREE.MeshBasicMaterial> {
  const dome = new THREE.Mesh(new THREE.SphereGeometry(1000, 64, 32), new THREE.MeshBasicMaterial({ side: THREE.BackSide, depthTest: false, depthWrite: false, fog: false }));
  dome.frustumCulled = false;
  dome.renderOrder = -10;
  return dome;
}
