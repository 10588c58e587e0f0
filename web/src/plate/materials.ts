import * as THREE from 'three';
import type { CutOut, Pictures } from './materialStore';
import { answerOf, type Answer, type Response } from './answer';
import * as shader from './surfaceShader';
import { waterLightAdded, waterLightHead, waterLit } from './waterLight';
import { withViews } from './views';
import { withWind } from './windShader';
import { fallenUniforms } from './fallen';
import { patched, type Patch } from './patched';

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
  /** Of its relief, and how thick it lies, metres. */
  depth: number;
  thickness: number;
  fill: number;
  answer: Answer;
  /** What is under it shows its colour through, but not its roughness. */
  film: boolean;
  metalness: number;
  /** Metres of radius of droplets that it is to be seen for where they are less than a pixel; 0: always. */
  afar: number;
}

/** A material can be made anew with another answer to the weather. */
interface Anew {
  anew?: (response: Response) => THREE.Material;
}

export type SurfaceMaterial = (THREE.MeshStandardMaterial | THREE.MeshLambertMaterial) & {
  userData: { uniforms: Record<string, THREE.IUniform>; layers: number } & Anew;
};

const blank = new THREE.DataArrayTexture(new Uint8Array(4), 1, 1, 1);
blank.needsUpdate = true;

/** What lies open to no sky is never wet. */
const dry = new THREE.DataTexture(new Uint8Array(1), 1, 1, THREE.RedFormat);
dry.needsUpdate = true;

/** How a material is lit: in full, or by its colour and relief alone where no graphics card helps. */
export interface Lighting {
  plain: boolean;
}

export interface Surfacing {
  /** Room for so many patinas; rooms that stay empty cost nothing. */
  layers: number;
  /** The base has coordinates of its own and does not tile. */
  ownBase?: boolean;
  /** What it is of has colours of its own at its vertices. */
  coloured?: boolean;
  /** Steep ground: pictures are laid on from the sides as well. */
  steep?: boolean;
  /** It has fallen itself: nothing falls on it, and it rises as `uLift` says. */
  fallen?: boolean;
  /** Height of something scattered, which the wind bends as far as its geometry says. */
  tall?: number;
  answer?: Answer;
}

/** How much of what is behind it a pane hides. */
const PANE = 0.16;

/** A material with the base's pictures and what is laid over them. */
export function surfaceMaterial(
  base: Pictures,
  {
    layers,
    ownBase = false,
    coloured = false,
    steep = false,
    fallen = false,
    tall = 0,
    answer = answerOf({}, { porosity: base.porosity }),
  }: Surfacing,
  { plain }: Lighting,
): SurfaceMaterial {
  // What is scattered has colours of its own: those of patinas that lie on it.
  const shared = { side: THREE.DoubleSide, vertexColors: tall > 0 || coloured };
  const material = (
    plain ? new THREE.MeshLambertMaterial(shared) : new THREE.MeshStandardMaterial(shared)
  ) as SurfaceMaterial;
  // Leaves of a piece: the shadow pass reads the picture and the limit from here, by its own coordinates.
  const cut = base.alpha && tall === 0;
  if (cut) Object.assign(material, { map: ownBase ? byOwnUv(base.colour) : base.colour, alphaTest: CUT_AT });
  if (base.window) Object.assign(material, { transparent: true, opacity: PANE, depthWrite: false });
  const uniforms: Record<string, THREE.IUniform> = {
    uColour: { value: base.colour },
    uRelief: { value: base.relief },
    uTile: { value: base.tile > 0 ? base.tile : 1 },
    uMetal: { value: base.metalness },
    uDepth: { value: base.depth },
    uLayers: { value: 0 },
    uUvScale: { value: 1 },
    uMaskLayer: { value: -1 },
    uDotted: { value: 0 },
    uExposure: { value: dry },
    uDamp: { value: dry },
    ...fallenUniforms,
    uAnswer: { value: new THREE.Vector3(...answer) },
    uLift: { value: 1 },
    uCovers: { value: blank },
    uPage: { value: new THREE.Vector4() },
    uPageCovers: { value: blank },
    uFinishColour: { value: blank },
    uFinishRelief: { value: blank },
    uLayer: { value: Array.from({ length: Math.max(1, layers) * 5 }, () => new THREE.Vector4(0, 0, 1, 1)) },
  };
  material.defines = {
    ...material.defines,
    SURFACE: '',
    LAYERS: layers,
    ...(ownBase ? { OWN_BASE: '' } : {}),
    ...(cut ? { CUT: '' } : {}),
    ...(steep ? { STEEP: '' } : {}),
    ...(tall > 0 ? { SCATTERED: '' } : {}),
    ...(fallen ? { FALLEN: '' } : {}),
    ...(plain || ownBase ? {} : { PARALLAX: '' }),
  };
  material.customProgramCacheKey = () =>
    `surface ${layers} ${ownBase} ${coloured} ${cut} ${steep} ${fallen} ${tall > 0}`;
  material.onBeforeCompile = (program) => {
    Object.assign(program.uniforms, uniforms);
    // What is scattered stands too close together for light from below.
    const lit = tall === 0 && !fallen;
    if (lit) Object.assign(program.uniforms, waterLit);
    if (tall > 0) {
      withWind(program, tall);
      withHand(program);
    }
    program.vertexShader =
      shader.vertexHead +
      patched(
        program.vertexShader,
        ['#include <uv_vertex>', `#include <uv_vertex>\n${shader.vertexBody}`],
        ['#include <begin_vertex>', `#include <begin_vertex>\n${shader.rises}`],
      );
    program.fragmentShader = patched(
      program.fragmentShader,
      ['void main() {', `${shader.fragmentHead}\n${lit ? waterLightHead : ''}\nvoid main() {\n`],
      ['#include <lights_fragment_end>', lit ? waterLightAdded : '#include <lights_fragment_end>'],
      ['#include <map_fragment>', 'layDown();\ndiffuseColor.rgb *= sColour;'],
      ['#include <alphatest_pars_fragment>', `#include <alphatest_pars_fragment>\n${cut ? thinCut : ''}`],
      ['#include <alphatest_fragment>', cut ? cutOut : '#include <alphatest_fragment>'],
      ...(plain ? [] : [gloss, metal]),
      ['#include <normal_fragment_maps>', 'normal = bent(normal);'],
    );
    withViews(program);
  };
  material.userData = { uniforms, layers };
  if (tall > 0)
    material.userData.anew = (response) => {
      const own = { layers, ownBase, steep, fallen, tall, answer: answerOf(response, { porosity: base.porosity }) };
      const made = surfaceMaterial(base, own, { plain });
      made.userData.uniforms.uTile.value = uniforms.uTile.value;
      return made;
    };
  return material;
}

/** What a plain material, which is lit in one way only, has no place for. */
const gloss: Patch = ['#include <roughnessmap_fragment>', 'float roughnessFactor = clamp(sRough, 0.08, 1.0);'];
const metal: Patch = ['#include <metalnessmap_fragment>', 'float metalnessFactor = sMetal;'];
const leafGloss: Patch = [
  '#include <roughnessmap_fragment>',
  'float roughnessFactor = max(wet_roughness(roughness, sWet), 0.3);',
];

/** Faces of a mirrored instance wind the other way round: what three.js takes for their back is their front. */
export function withHand(program: THREE.WebGLProgramParametersWithUniforms) {
  const hand = 'vHand = 1.0;\n#ifdef USE_INSTANCING\nvHand = sign(determinant(mat3(instanceMatrix)));\n#endif';
  program.vertexShader = `varying float vHand;\n${patched(program.vertexShader, ['#include <begin_vertex>', `#include <begin_vertex>\n${hand}`])}`;
  program.fragmentShader = `varying float vHand;\n${patched(program.fragmentShader, ['#include <normal_fragment_begin>', '#include <normal_fragment_begin>\nnormal *= vHand;\nnonPerturbedNormal *= vHand;'])}`;
}

/** One grey for all: shapes alone. */
export function clayMaterial(): THREE.Material {
  const material = new THREE.MeshLambertMaterial({ color: 0xb9b4aa, side: THREE.DoubleSide });
  material.onBeforeCompile = withHand;
  return material;
}

/** Say how far a surface lies open to the sky. */
export function setExposure(material: SurfaceMaterial, exposure: THREE.Texture | null) {
  material.userData.uniforms.uExposure.value = exposure ?? dry;
}

/** Say how wet standing water makes a surface. */
export function setDamp(material: SurfaceMaterial, damp: THREE.Texture | null) {
  material.userData.uniforms.uDamp.value = damp ?? dry;
}

/** Finer covers of a part of an owner: where that lies in its unwrap. */
export interface CoverPage {
  covers: THREE.DataArrayTexture;
  low: [number, number];
  high: [number, number];
}

/** Give a surface a page of finer covers, or take it away. */
export function setPage(material: SurfaceMaterial, page: CoverPage | null) {
  const { uPage, uPageCovers } = material.userData.uniforms;
  uPageCovers.value = page?.covers ?? blank;
  if (page) uPage.value.set(...page.low, 1 / (page.high[0] - page.low[0]), 1 / (page.high[1] - page.low[1]));
  else uPage.value.set(0, 0, 0, 0);
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
  uniforms.uLayers.value = layers.length;
  layers.forEach((layer, k) => {
    values[k * 5].set(layer.cover, layer.finish, layer.tile, layer.variationTile);
    values[k * 5 + 1].set(layer.tint.r, layer.tint.g, layer.tint.b, layer.variation);
    values[k * 5 + 2].set(layer.roughness, layer.relief, layer.breakUp, layer.stain);
    values[k * 5 + 3].set(layer.depth, layer.thickness, layer.fill, layer.afar);
    values[k * 5 + 4].set(...layer.answer, layer.metalness + (layer.film ? 2 : 0));
  });
}

/**
 * Where a texel of the picture covers many of its leaves, their alpha is but the share they fill: one limit for all would
 * make the leaf whole or nothing. There each texel has a limit of its own, so that as many stay as there should be. After
 * Wyman and McGuire, *Hashed Alpha Testing* (2017), with the noise of Jimenez (2014) on the texels that are read.
 */
const thinCut = /* glsl */ `
float thinCut(vec2 at, float limit) {
  vec2 texel = at * vec2(textureSize(map, 0));
  vec2 across = dFdx(texel), down = dFdy(texel);
  float level = 0.5 * log2(max(max(dot(across, across), dot(down, down)), 1e-8));
  if (level < 0.5) return limit;
  vec2 cell = floor(texel * exp2(-floor(level + 0.5)));
  float noise = fract(52.9829189 * fract(dot(cell, vec2(0.06711056, 0.00583715))));
  return mix(limit, 0.08 + 0.84 * noise, min(1.0, level - 0.5));
}`;

const cutOut = 'if (sAlpha < thinCut(vMapUv, alphaTest)) discard;';

/** Alpha under which nothing of a leaf is drawn. */
const CUT_AT = 0.42;

/** The same picture, read by the second coordinates of a mesh. */
function byOwnUv(picture: THREE.Texture): THREE.Texture {
  const own = picture.clone();
  own.channel = 1;
  own.needsUpdate = true;
  return own;
}

/** What falls, as the program of a leaf or a decal reads it. */
const answeringUniforms = (answer: Answer) => ({
  ...fallenUniforms,
  uAnswer: { value: new THREE.Vector3(...answer) },
});

/** Leaves and blades: cut out by alpha, lit through from behind. */
export function leafMaterial(
  base: CutOut,
  { plain }: Lighting,
  tall: number,
  answer: Answer = answerOf({}, base),
): THREE.Material {
  // The same settings for all, so that one program draws every kind of leaf.
  const shared = { map: base.colour, alphaTest: CUT_AT, side: THREE.DoubleSide, vertexColors: true };
  const material = plain
    ? new THREE.MeshLambertMaterial(shared)
    : new THREE.MeshStandardMaterial({ ...shared, roughness: 0.75, metalness: 0 });
  const share = base.translucency;
  material.userData.anew = (response: Response) => leafMaterial(base, { plain }, tall, answerOf(response, base));
  material.customProgramCacheKey = () => 'leaf';
  material.onBeforeCompile = (program) => {
    withWind(program, tall);
    program.uniforms.uThrough = { value: share };
    Object.assign(program.uniforms, answeringUniforms(answer));
    program.fragmentShader = shader.leafHead + program.fragmentShader;
    // Normals of leaves lean out of the crown, so that it is lit as a body: they are not turned for back faces.
    program.fragmentShader = patched(
      program.fragmentShader,
      ['#include <alphatest_pars_fragment>', `#include <alphatest_pars_fragment>\n${thinCut}`],
      [
        '#include <alphatest_fragment>',
        `if (diffuseColor.a < thinCut(vMapUv, alphaTest)) discard;\n${shader.fallenOnLeaf}`,
      ],
      ...(plain ? [] : [leafGloss]),
      [
        '#include <normal_fragment_begin>',
        'float faceDirection = 1.0;\nvec3 normal = normalize(vNormal);\nvec3 nonPerturbedNormal = normal;',
      ],
      [
        '#include <lights_fragment_end>',
        `#include <lights_fragment_end>
        #if NUM_DIR_LIGHTS > 0
          // As in proofs: of the light that strikes a leaf it lets half its translucency through and throws back the rest.
          vec3 through = max(0.0, dot(-geometryNormal, directLight.direction)) * directLight.color;
          reflectedLight.directDiffuse = mix(reflectedLight.directDiffuse, through * BRDF_Lambert(diffuseColor.rgb), 0.5 * uThrough);
        #endif`,
      ],
    );
    withViews(program);
  };
  return material;
}

/** The shadow of what the wind bends. The shadow pass itself gives it the picture its leaves are cut out by. */
export function bentShadow(tall: number): THREE.Material {
  const material = new THREE.MeshDepthMaterial();
  material.customProgramCacheKey = () => 'bent shadow';
  material.onBeforeCompile = (program) => withWind(program, tall);
  return material;
}

/** Decals: a picture with alpha a hair above the surface, with its relief and roughness. */
export function decalMaterial(
  base: Pictures,
  tint: string,
  { plain }: Lighting,
  answer: Answer = answerOf({}, { porosity: base.porosity }),
): THREE.Material {
  const shared = {
    map: base.colour,
    color: new THREE.Color(tint),
    transparent: true,
    depthWrite: false,
    vertexColors: true,
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -2,
    side: THREE.DoubleSide,
  };
  const material = plain ? new THREE.MeshLambertMaterial(shared) : new THREE.MeshStandardMaterial(shared);
  material.customProgramCacheKey = () => 'decal';
  material.onBeforeCompile = (program) => {
    Object.assign(program.uniforms, answeringUniforms(answer), {
      uRelief: { value: base.relief },
      uDepth: { value: base.depth },
    });
    program.fragmentShader = patched(
      program.fragmentShader,
      ['void main() {', `${shader.decalHead}\nvoid main() {\n`],
      ['#include <color_fragment>', 'weatherDecal(diffuseColor, vColor);'],
      ...(plain ? [] : [gloss]),
      ['#include <normal_fragment_maps>', 'normal = leaned(normal);'],
    );
    withViews(program);
  };
  return material;
}
