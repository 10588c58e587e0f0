import * as THREE from 'three';
import { fetchBytes } from '../api/client';
import { unpack } from '../api/packet';
import * as shader from './surfaceShader';
import { withWind } from './windShader';

export interface MaterialInfo {
  tile: number;
  metalness: number;
  translucency: number;
  alpha: boolean;
  size: number;
  url: string;
  v: string;
}

export interface Pictures extends MaterialInfo {
  colour: THREE.Texture;
  relief: THREE.Texture;
}

export interface Layer {
  key: string;
  cover: number;
  finish: number;
  tile: number;
  variationTile: number;
  tint: THREE.Color;
  variation: number;
  roughness: number;
  relief: number;
  breakUp: number;
  stain: number;
}

const bitmaps = new THREE.ImageBitmapLoader();
bitmaps.setOptions({ premultiplyAlpha: 'none', colorSpaceConversion: 'none', imageOrientation: 'flipY' });

async function picture(url: string, srgb: boolean): Promise<THREE.Texture> {
  const texture = new THREE.Texture(await bitmaps.loadAsync(url));
  texture.flipY = false;
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
  texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
}

/** Pictures of materials, fetched once. */
export class MaterialStore {
  private kept = new Map<string, Promise<Pictures>>();
  private finishes: { ids: string[]; colour: THREE.DataArrayTexture; relief: THREE.DataArrayTexture } | null = null;
  private finishTiles = new Map<string, number>();

  private infos: Record<string, MaterialInfo> = {};

  constructor(private side: number) {}

  setInfos(infos: Record<string, MaterialInfo>) {
    this.infos = infos;
  }

  get(id: string): Promise<Pictures> {
    const address = this.address(id);
    let found = this.kept.get(address);
    if (!found) {
      found = this.load(id);
      this.kept.set(address, found);
    }
    return found;
  }

  /** Where a material's pictures lie now; leaves have others for each half month. */
  address(id: string): string {
    const info = this.infos[id];
    return info ? `${info.url}?${info.v}` : id;
  }

  private async load(id: string): Promise<Pictures> {
    const info = this.infos[id];
    if (!info) throw { detail: `The material '${id}' is no longer there. Choose another one.` };
    const root = info.url;
    const side = this.side < info.size ? `&side=${this.side}` : '';
    const [colour, relief] = await Promise.all([picture(`${root}/colour.webp?v=${info.v}${side}`, true), picture(`${root}/relief.webp?v=${info.v}${side}`, false)]);
    return { ...info, colour, relief };
  }

  /** All finish materials in use, as two array textures of one size. */
  async finishArrays(ids: string[]): Promise<{ ids: string[]; colour: THREE.DataArrayTexture; relief: THREE.DataArrayTexture }> {
    const have = this.finishes;
    if (have && ids.every((id) => have.ids.includes(id))) return have;
    const all = [...new Set([...(have?.ids ?? []), ...ids])].sort();
    const side = Math.min(this.side, 512);
    const packets = await Promise.all(all.map(async (id) => unpack(await fetchBytes(`/api/kit/materials/${id}/raw?side=${side}`))));
    const make = (name: 'colour' | 'relief', srgb: boolean) => {
      const data = new Uint8Array(side * side * 4 * all.length);
      packets.forEach((packet, k) => data.set(packet.arrays[name] as Uint8Array, k * side * side * 4));
      const texture = new THREE.DataArrayTexture(data, side, side, all.length);
      texture.format = THREE.RGBAFormat;
      texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
      texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
      texture.minFilter = THREE.LinearMipmapLinearFilter;
      texture.magFilter = THREE.LinearFilter;
      texture.generateMipmaps = true;
      texture.needsUpdate = true;
      return texture;
    };
    packets.forEach((packet, k) => this.finishTiles.set(all[k], packet.info.tile as number));
    this.finishes = { ids: all, colour: make('colour', true), relief: make('relief', false) };
    return this.finishes;
  }

  finishTile(id: string): number {
    return Math.max(this.finishTiles.get(id) ?? 1, 0.05);
  }
}

export type SurfaceMaterial = THREE.MeshStandardMaterial & { userData: { uniforms: Record<string, THREE.IUniform>; layers: number } };

const blank = new THREE.DataArrayTexture(new Uint8Array(4), 1, 1, 1);
blank.needsUpdate = true;

/** A material with the base's pictures and room for `layers` patinas. */
export function surfaceMaterial(base: Pictures, layers: number, ownBase: boolean, swaying = 0): SurfaceMaterial {
  const material = new THREE.MeshStandardMaterial({ side: THREE.DoubleSide }) as SurfaceMaterial;
  const uniforms: Record<string, THREE.IUniform> = {
    uColour: { value: base.colour }, uRelief: { value: base.relief }, uTile: { value: base.tile > 0 ? base.tile : 1 },
    uMetal: { value: base.metalness }, uUvScale: { value: 1 }, uView: { value: 0 }, uMaskLayer: { value: -1 },
    uCovers: { value: blank }, uFinishColour: { value: blank }, uFinishRelief: { value: blank },
    uLayer: { value: Array.from({ length: Math.max(1, layers) * 3 }, () => new THREE.Vector4(0, 0, 1, 1)) },
  };
  material.defines = { ...material.defines, LAYERS: layers, MACRO: shader.MACRO.toFixed(3), ...(ownBase ? { OWN_BASE: '' } : {}) };
  material.customProgramCacheKey = () => `surface ${layers} ${ownBase} ${swaying > 0}`;
  material.onBeforeCompile = (program) => {
    Object.assign(program.uniforms, uniforms);
    if (swaying > 0) withWind(program, swaying);
    program.vertexShader = shader.vertexHead + program.vertexShader.replace('#include <uv_vertex>', `#include <uv_vertex>\n${shader.vertexBody}`);
    program.fragmentShader = program.fragmentShader
      .replace('#include <common>', `#include <common>`)
      .replace('void main() {', `${shader.fragmentHead}\nvoid main() {\n`)
      .replace('#include <map_fragment>', 'layDown();\ndiffuseColor.rgb *= sColour;')
      .replace('#include <roughnessmap_fragment>', 'float roughnessFactor = clamp(sRough, 0.08, 1.0);')
      .replace('#include <metalnessmap_fragment>', 'float metalnessFactor = sMetal;')
      .replace('#include <normal_fragment_maps>', 'normal = bent(normal);')
      .replace('#include <tonemapping_fragment>', `#include <tonemapping_fragment>\n${shader.viewEnd}`);
  };
  material.userData = { uniforms, layers };
  return material;
}

/** Hand the patinas of one surface to its material. */
export function setLayers(
  material: SurfaceMaterial,
  layers: Layer[],
  covers: THREE.DataArrayTexture | null,
  arrays: { colour: THREE.DataArrayTexture; relief: THREE.DataArrayTexture } | null,
) {
  const { uniforms } = material.userData;
  uniforms.uCovers.value = covers ?? blank;
  uniforms.uFinishColour.value = arrays?.colour ?? blank;
  uniforms.uFinishRelief.value = arrays?.relief ?? blank;
  const values = uniforms.uLayer.value as THREE.Vector4[];
  values.forEach((value, k) => k % 3 === 0 && value.setX(-1));
  layers.forEach((layer, k) => {
    values[k * 3].set(layer.cover, layer.finish, layer.tile, layer.variationTile);
    values[k * 3 + 1].set(layer.tint.r, layer.tint.g, layer.tint.b, layer.variation);
    values[k * 3 + 2].set(layer.roughness, layer.relief, layer.breakUp, layer.stain);
  });
}

/** Leaves and blades: cut out by alpha, lit through from behind. */
export function leafMaterial(base: Pictures, plain: boolean, swaying: number): THREE.Material {
  // The same settings for all, so that one program draws every kind of leaf.
  const shared = { map: base.colour, alphaTest: 0.42, side: THREE.DoubleSide, vertexColors: true };
  const material = plain ? new THREE.MeshLambertMaterial(shared) : new THREE.MeshStandardMaterial({ ...shared, roughness: 0.75, metalness: 0 });
  const share = base.translucency;
  material.customProgramCacheKey = () => `leaf ${swaying > 0}`;
  material.onBeforeCompile = (program) => {
    if (swaying > 0) withWind(program, swaying);
    program.uniforms.uThrough = { value: share };
    program.fragmentShader = `uniform float uThrough;\n${program.fragmentShader}`;
    // Normals of leaves lean out of the crown, so that it is lit as a body: they are not turned for back faces.
    program.fragmentShader = program.fragmentShader
      .replace('#include <normal_fragment_begin>', 'float faceDirection = 1.0;\nvec3 normal = normalize(vNormal);\nvec3 nonPerturbedNormal = normal;')
      .replace(
        '#include <lights_fragment_end>',
        `#include <lights_fragment_end>
        #if NUM_DIR_LIGHTS > 0
          vec3 through = max(0.0, dot(-geometryNormal, directionalLights[0].direction)) * directionalLights[0].color;
          reflectedLight.directDiffuse += uThrough * through * BRDF_Lambert(diffuseColor.rgb) * 0.75;
        #endif`,
      );
  };
  return material;
}

/** Decals: a picture with alpha a hair above the surface. */
export function decalMaterial(base: Pictures, tint: string): THREE.MeshStandardMaterial {
  return new THREE.MeshStandardMaterial({
    map: base.colour, color: new THREE.Color(tint), transparent: true, depthWrite: false, vertexColors: true,
    polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2, roughness: 0.85, side: THREE.DoubleSide,
  });
}
