import * as THREE from 'three';
import type { Packet } from '../api/packet';

/** The sky's picture in a packet. */
export const SKY_IMAGE = 'sky image';

export interface SkyView {
  background: THREE.DataTexture;
  sun: THREE.Vector3;
  sunColour: THREE.Color;
  haze: THREE.Color;
  /** The sky's light as nine spherical harmonics, for machines too slow for the picture itself. */
  ambient: THREE.SphericalHarmonics3;
}

/** A picture of radiance as the server packs it: nine bits a colour, five for what they share. */
export function radiance(words: Uint32Array<ArrayBuffer>, width: number, height: number): THREE.DataTexture {
  const texture = new THREE.DataTexture(words, width, height, THREE.RGBFormat, THREE.UnsignedInt5999Type);
  texture.colorSpace = THREE.LinearSRGBColorSpace;
  texture.minFilter = texture.magFilter = THREE.LinearFilter;
  texture.wrapS = THREE.RepeatWrapping;
  texture.needsUpdate = true;
  return texture;
}

/** The server's sky: row 0 at the nadir, and columns as in three's equirectangular pictures, from −x over north (−z). */
export function skyOf(packet: Packet): SkyView {
  const [height, width] = packet.shapes[SKY_IMAGE];
  const background = radiance(packet.arrays[SKY_IMAGE] as Uint32Array<ArrayBuffer>, width, height);
  background.mapping = THREE.EquirectangularReflectionMapping;
  // A sphere seen from inside runs the other way round.
  background.repeat.x = -1;
  background.offset.x = 1;
  const info = packet.info as { sun: number[]; sunColour: number[]; haze: number[]; ambient: number[][] };
  const ambient = new THREE.SphericalHarmonics3();
  ambient.fromArray(info.ambient.flat());
  const linear = (c: number[]) => new THREE.Color().setRGB(c[0], c[1], c[2], THREE.LinearSRGBColorSpace);
  return {
    background,
    sun: new THREE.Vector3(...info.sun),
    sunColour: linear(info.sunColour),
    haze: linear(info.haze),
    ambient,
  };
}

/** The sky as a dome about the eye. As a background three would first turn it into six pictures, which takes a slow machine long. */
export function skyDome(): THREE.Mesh<THREE.SphereGeometry, THREE.MeshBasicMaterial> {
  const dome = new THREE.Mesh(
    new THREE.SphereGeometry(1000, 64, 32),
    new THREE.MeshBasicMaterial({ side: THREE.BackSide, depthTest: false, depthWrite: false, fog: false }),
  );
  dome.frustumCulled = false;
  dome.renderOrder = -10;
  return dome;
}
