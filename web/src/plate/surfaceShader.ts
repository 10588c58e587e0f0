/** The shader of surfaces: a tiling base material and its patinas, blended by their covers as everywhere else. */
import { formulas } from './formulas.gen';
import { parallaxCode } from './parallax';

/** Layers a surface's program has room for, as a rule and at most. */
export const USUAL_LAYERS = 8;
export const MOST_LAYERS = 16;

/** How far droplets of a size are too small to be seen as bodies, by metres a pixel: as proofs have it. */
export const afar = /* glsl */ `
float less_than_a_pixel(float pixel, float size) {
  return smoothstep(1.2, 2.2, pixel / size);
}
`;

export const vertexHead = /* glsl */ `
attribute vec2 unwrapUv;
#ifdef OWN_BASE
attribute vec2 baseUv;
varying vec2 vBase;
#endif
uniform float uUvScale;
#ifdef FALLEN
attribute float lift;
uniform float uLift;
#endif
varying vec2 vMetre;
varying vec2 vUnwrap;
varying vec3 vWorld;
#ifdef STEEP
varying vec3 vSite;
varying vec3 vFacing;
#endif
`;

export const vertexBody = /* glsl */ `
vMetre = uv * uUvScale;
vUnwrap = unwrapUv;
vWorld = (modelMatrix * vec4(position, 1.0)).xyz;
#ifdef OWN_BASE
vBase = baseUv;
#endif
#ifdef STEEP
vSite = position;
vFacing = normal;
#endif
`;

/** While its depth is being changed, what has fallen sinks to what it lies on, or rises over it. */
export const rises = /* glsl */ `
#ifdef FALLEN
transformed += (inverse(mat3(modelMatrix)) * vec3(0.0, lift * (uLift - 1.0), 0.0));
#endif
`;

export const frameCode = /* glsl */ `
// Unit directions in which coordinates grow along the surface; none where they do not.
void frameOf(vec2 at, out vec3 along, out vec3 across) {
  vec3 dp1 = dFdx(-vViewPosition), dp2 = dFdy(-vViewPosition);
  vec2 du1 = dFdx(at), du2 = dFdy(at);
  float det = du1.x * du2.y - du1.y * du2.x;
  along = (dp1 * du2.y - dp2 * du1.y) * sign(det);
  across = (dp2 * du1.x - dp1 * du2.x) * sign(det);
  float used = abs(det) < 1e-14 ? 0.0 : 1.0;
  along *= used / max(length(along), 1e-9);
  across *= used / max(length(across), 1e-9);
}
`;

/** How far rime hides what looks some way, in the eye's space. */
const rime = /* glsl */ `
float rimed(vec3 normal) {
  float most = length(uRime);
  return most > 0.0 ? rime_share(most, dot(normal, (viewMatrix * vec4(uRime, 0.0)).xyz) / most) : 0.0;
}
`;

export const fragmentHead = /* glsl */ `
#ifdef OWN_BASE
varying vec2 vBase;
#endif
varying vec2 vMetre;
varying vec2 vUnwrap;
varying vec3 vWorld;
uniform sampler2D uColour;
uniform sampler2D uRelief;
uniform float uTile;
uniform float uMetal;
uniform float uDepth;
uniform float uDotted;
uniform int uMaskLayer;
uniform sampler2D uExposure;
uniform sampler2D uDamp;
uniform float uWetness;
uniform float uDried;
uniform float uSnow;
uniform float uFrost;
uniform float uDust;
// How it answers to the weather: porosity, share of the snow that slips off, and 1 where no frost forms.
uniform vec3 uAnswer;
uniform vec3 uRime;
// What is scattered has no map of how far it lies open to the sky: it stands in the open or under a roof.
#ifdef SCATTERED
varying float vOpen;
varying vec3 vStands;
#endif
#if LAYERS > 0
uniform mediump sampler2DArray uCovers;
// Finer ones near the eye: their corner in the unwrap, and one over their width; no width where there are none.
uniform vec4 uPage;
uniform mediump sampler2DArray uPageCovers;
uniform mediump sampler2DArray uFinishColour;
uniform mediump sampler2DArray uFinishRelief;
uniform int uLayers;
uniform vec4 uLayer[LAYERS * 5];
// per layer: (cover index, finish index, tile, variation tile), (tint rgb, variation), (roughness, relief, break up, stain),
// (depth, thickness, fill, size from which it is seen), all but the fill in metres, (answer, metalness, and 2 more for a film)
#endif
${formulas}
vec3 sColour;
// How much there is of it where it is cut out by its picture.
float sAlpha;
float sRough;
float sMetal;
// Metres above the surface's own shape.
float sHeight;
// How the surface leans against its shape, in the eye's space: reliefs of several frames add up in it.
vec3 sSlope;
// The same along the unwrap's own directions.
vec2 sLean;
float sWet;
float sMask;
float sDotted;
// Where pictures are looked up: where the surface lies in them, or where the line of sight meets their relief.
vec2 sMetre;

vec4 laid(sampler2D picture, float tile) {
#ifdef PARALLAX
  // The steps of a relief are no reason to read a smaller picture.
  return textureGrad(picture, sMetre / tile, dFdx(vMetre) / tile, dFdy(vMetre) / tile);
#else
  return texture2D(picture, sMetre / tile);
#endif
}

vec4 laid(mediump sampler2DArray pictures, float tile, float which) {
#ifdef PARALLAX
  return textureGrad(pictures, vec3(sMetre / tile, which), dFdx(vMetre) / tile, dFdy(vMetre) / tile);
#else
  return texture(pictures, vec3(sMetre / tile, which));
#endif
}

#ifdef STEEP
// Pictures are laid on from above, along x and along z.
varying vec3 vSite;
varying vec3 vFacing;
vec2 sAlongX;
vec2 sAlongZ;
vec3 sShare;

void lookFromSides() {
  vec3 n = normalize(vFacing);
  vec3 weight = vec3(side_weight(n.x, 1.0), side_weight(n.y, 1.0), side_weight(n.z, 1.0));
  sShare = weight / (weight.x + weight.y + weight.z);
  sAlongX = vec2(n.x < 0.0 ? vSite.y : -vSite.y, -vSite.z);
  sAlongZ = vec2(vSite.x, n.z < 0.0 ? -vSite.y : vSite.y);
}

vec4 tiled(sampler2D picture, float tile) {
  return sShare.y * laid(picture, tile) + sShare.x * texture2D(picture, sAlongX / tile) + sShare.z * texture2D(picture, sAlongZ / tile);
}

vec4 tiled(mediump sampler2DArray pictures, float tile, float which) {
  return sShare.y * laid(pictures, tile, which) + sShare.x * texture(pictures, vec3(sAlongX / tile, which)) + sShare.z * texture(pictures, vec3(sAlongZ / tile, which));
}
#else
vec4 tiled(sampler2D picture, float tile) {
  return laid(picture, tile);
}

vec4 tiled(mediump sampler2DArray pictures, float tile, float which) {
  return laid(pictures, tile, which);
}
#endif

#if LAYERS > 0
${afar}
float coverAt(int layer) {
  float which = uLayer[layer * 5].x;
  vec2 at = (vUnwrap - uPage.xy) * uPage.zw;
  bool fine = uPage.z > 0.0 && at.x >= 0.0 && at.y >= 0.0 && at.x <= 1.0 && at.y <= 1.0;
  return fine ? texture(uPageCovers, vec3(at, which)).r : texture(uCovers, vec3(vUnwrap, which)).r;
}
#endif

${frameCode}
${rime}
#ifdef PARALLAX
${parallaxCode}
#endif
void layDown() {
  vec3 along, across;
  frameOf(vMetre, along, across);
  sMetre = vMetre;
#ifdef STEEP
  lookFromSides();
#endif
#ifdef PARALLAX
#ifdef STEEP
  sMetre = raised(vMetre, along, across, smoothstep(0.5, 0.9, sShare.y));
#else
  sMetre = raised(vMetre, along, across, 1.0);
#endif
#endif
#ifdef OWN_BASE
  vec4 c = texture2D(uColour, vBase);
  vec4 r = texture2D(uRelief, vBase);
  float drift = 1.0;
#else
  vec4 c = tiled(uColour, uTile);
  vec4 r = tiled(uRelief, uTile);
  float drift = macro_brightness(texture2D(uRelief, vMetre / uTile / MACRO).a);
#endif
  sColour = c.rgb * drift;
  sAlpha = c.a;
  sRough = r.b;
  // Where it is told place by place it stands in the colour's fourth value.
  sMetal = uMetal < 0.0 ? c.a : uMetal;
  sHeight = metres(r.a, uDepth);
#ifdef OWN_BASE
  // A base with coordinates of its own leans in their frame.
  vec3 baseAlong, baseAcross;
  frameOf(vBase, baseAlong, baseAcross);
  sSlope = baseAlong * (r.r * 2.0 - 1.0) + baseAcross * (r.g * 2.0 - 1.0);
#else
  sSlope = along * (r.r * 2.0 - 1.0) + across * (r.g * 2.0 - 1.0);
#endif
  vec3 answer = uAnswer;
  sMask = 0.0;
  sDotted = uDotted;
#if LAYERS > 0
  float pixel = max(length(dFdx(vMetre)), length(dFdy(vMetre)));
  for (int k = 0; k < LAYERS; k++) {
    if (k >= uLayers) break;
    vec4 a = uLayer[k * 5], b = uLayer[k * 5 + 1], d = uLayer[k * 5 + 2], e = uLayer[k * 5 + 3];
    float cover = coverAt(k);
    if (e.w > 0.0) cover *= less_than_a_pixel(pixel, e.w);
    if (cover <= 0.0) continue;
    vec4 fc = tiled(uFinishColour, a.z, a.y);
    vec4 fr = tiled(uFinishRelief, a.z, a.y);
    float amount = layer_amount(cover, fr.a, d.z, under_relief(sHeight, uDepth), felt_fill(e.z, uDepth));
    float vary = variation_factor(b.w, texture(uFinishRelief, vec3(vMetre / a.w, a.y)).a);
    sColour = blend_colour(sColour, laid_colour(fc.rgb, b.rgb, vary), d.w, amount);
    // Two more where it is a film; the rest is how metallic it is.
    float kind = uLayer[k * 5 + 4].w, film = step(2.0, kind);
    float keep = kept_share(amount, d.w, film);
    sRough = mix(sRough, min(1.0, fr.b * d.x), keep);
    sSlope = mix(sSlope, (along * (fr.r * 2.0 - 1.0) + across * (fr.g * 2.0 - 1.0)) * d.y, keep);
    sMetal = mix(sMetal, kind - 2.0 * film, keep);
    answer = mix(answer, uLayer[k * 5 + 4].xyz, keep);
    sHeight = mix(sHeight, laid_height(sHeight, metres(fr.a, e.x), e.y, e.z, body_share(cover)), amount);
  }
  if (uMaskLayer >= 0) sMask = coverAt(uMaskLayer);
#endif
#ifdef FALLEN
  sWet = 0.0;
#else
  float under = under_relief(sHeight, uDepth);
  float up = dot(normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0), (viewMatrix * vec4(0.0, 1.0, 0.0, 0.0)).xyz);
#ifdef SCATTERED
  float open = vOpen, damp = 0.0;
#else
  float open = texture2D(uExposure, vUnwrap).r, damp = texture2D(uDamp, vUnwrap).r;
  float mud = mud_share(texture2D(uDamp, vUnwrap).g, under);
  sColour = mix(sColour, vec3(MUD_RED, MUD_GREEN, MUD_BLUE), mud);
  sRough = mix(sRough, 1.0, mud);
  sMetal *= 1.0 - mud;
  if (uDust > 0.0) {
    float share = dust_share(uDust, up, under);
    sColour = mix(sColour, vec3(DUST_RED, DUST_GREEN, DUST_BLUE), share);
    sRough = mix(sRough, 1.0, share);
    sMetal *= 1.0 - share;
  }
#endif
  sWet = max(damp, uWetness > 0.0 ? wet_share(uWetness, uDried, open, under) : 0.0);
  sColour = wet_colour(sColour, sWet, sMetal, answer.x);
  sRough = wet_roughness(sRough, sWet);
  sSlope *= kept_slope(sWet);
  if (uFrost > 0.0) {
    float share = frost_share(uFrost, open, up, under);
#ifdef SCATTERED
    share = max(share, vOpen * rimed(normalize(vNormal))) * crystals(vStands.x, vStands.y, vStands.z);
#endif
    share *= 1.0 - answer.z;
    sColour = frost_colour(sColour, share);
    sRough = frost_roughness(sRough, share);
    sMetal *= 1.0 - share;
  }
  if (uSnow > 0.0) {
    float lies = snow_depth(uSnow, open, up);
    float share = snow_share(lies, uDepth, under) * (1.0 - answer.y);
    sColour = snow_colour(sColour, share);
    sRough = snow_roughness(sRough, share);
    sSlope *= 1.0 - share;
    sMetal *= 1.0 - share;
    sHeight += lies * share;
  }
#endif
  sLean = vec2(dot(sSlope, along), dot(sSlope, across));
}

vec3 bent(vec3 n) {
  return normalize(n + sSlope);
}
`;

export const leafHead = /* glsl */ `
uniform float uThrough;
uniform float uWetness;
uniform float uDried;
uniform float uSnow;
uniform float uFrost;
uniform vec3 uRime;
uniform vec3 uAnswer;
varying vec3 vStands;
varying float vOpen;
float sWet;
${formulas}
${rime}
`;

/** Water, frost and snow on leaves and blades; their normals lean out of the crown, so that its top is white. */
export const fallenOnLeaf = /* glsl */ `
float up = dot(normalize(vNormal), (viewMatrix * vec4(0.0, 1.0, 0.0, 0.0)).xyz);
sWet = uWetness > 0.0 ? wet_share(uWetness, uDried, vOpen, 0.5) : 0.0;
diffuseColor.rgb = wet_colour(diffuseColor.rgb, sWet, 0.0, uAnswer.x);
if (uFrost > 0.0) {
  float share = max(frost_share(uFrost, vOpen, up, 1.0), vOpen * rimed(normalize(vNormal)));
  diffuseColor.rgb = frost_colour(diffuseColor.rgb, share * (1.0 - uAnswer.z) * crystals(vStands.x, vStands.y, vStands.z));
}
if (uSnow > 0.0) {
  float lies = snow_depth(uSnow, vOpen, up);
  diffuseColor.rgb = snow_colour(diffuseColor.rgb, (1.0 - uAnswer.y) * snow_on_leaf(lies, vStands.x, vStands.y, vStands.z));
}
`;

/** Relief and roughness of a decal, in the frame of its own picture, and what the weather lays on it. */
export const decalHead = /* glsl */ `
uniform sampler2D uRelief;
uniform float uDepth;
uniform float uWetness;
uniform float uDried;
uniform float uSnow;
uniform float uFrost;
uniform vec3 uAnswer;
float sRough;
float sWet;
${formulas}
${frameCode}
vec3 leaned(vec3 n) {
  vec3 along, across;
  frameOf(vMapUv, along, across);
  vec2 relief = texture2D(uRelief, vMapUv).rg * 2.0 - 1.0;
  return normalize(n + (along * relief.x + across * relief.y) * kept_slope(sWet));
}
// Its vertices say how open (red) and how damp (green) it is where they are.
void weatherDecal(inout vec4 colour, vec4 told) {
  float under = under_relief(metres(texture2D(uRelief, vMapUv).a, uDepth), uDepth);
  float up = dot(normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0), (viewMatrix * vec4(0.0, 1.0, 0.0, 0.0)).xyz);
  colour.a *= told.a;
  sRough = texture2D(uRelief, vMapUv).b;
  sWet = max(told.g, uWetness > 0.0 ? wet_share(uWetness, uDried, told.r, under) : 0.0);
  colour.rgb = wet_colour(colour.rgb, sWet, 0.0, uAnswer.x);
  sRough = wet_roughness(sRough, sWet);
  if (uFrost > 0.0) {
    float share = frost_share(uFrost, told.r, up, under) * (1.0 - uAnswer.z);
    colour.rgb = frost_colour(colour.rgb, share);
    sRough = frost_roughness(sRough, share);
  }
  if (uSnow > 0.0) {
    float share = snow_share(snow_depth(uSnow, told.r, up), uDepth, under) * (1.0 - uAnswer.y);
    colour.rgb = snow_colour(colour.rgb, share);
    sRough = snow_roughness(sRough, share);
  }
}
`;
