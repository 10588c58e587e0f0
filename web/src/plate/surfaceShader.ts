/**
 * The shader of surfaces: a tiling base material and up to eight patinas, blended by their covers.
 *
 * The formulas are those of core/cenote_core/patinas/flatten.py; a test holds the two together.
 */

/** Layers a surface's program has room for, as a rule and at most. */
export const USUAL_LAYERS = 8;
export const MOST_LAYERS = 16;
export const MACRO = 7.3;

export const vertexHead = /* glsl */ `
attribute vec2 unwrapUv;
#ifdef OWN_BASE
attribute vec2 baseUv;
varying vec2 vBase;
#endif
uniform float uUvScale;
varying vec2 vMetre;
varying vec2 vUnwrap;
varying vec2 vPlace;
#ifdef STEEP
varying vec3 vSite;
varying vec3 vFacing;
#endif
`;

export const vertexBody = /* glsl */ `
vMetre = uv * uUvScale;
vUnwrap = unwrapUv;
vPlace = (modelMatrix * vec4(position, 1.0)).xz;
#ifdef OWN_BASE
vBase = baseUv;
#endif
#ifdef STEEP
vSite = position;
vFacing = normal;
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

export const fragmentHead = /* glsl */ `
#ifdef OWN_BASE
varying vec2 vBase;
#endif
varying vec2 vMetre;
varying vec2 vUnwrap;
varying vec2 vPlace;
uniform sampler2D uColour;
uniform sampler2D uRelief;
uniform float uTile;
uniform float uMetal;
uniform float uDotted;
uniform int uMaskLayer;
#if LAYERS > 0
uniform mediump sampler2DArray uCovers;
uniform mediump sampler2DArray uFinishColour;
uniform mediump sampler2DArray uFinishRelief;
uniform int uLayers;
uniform vec4 uLayer[LAYERS * 3];
// per layer: (cover index, finish index, tile, variation tile), (tint rgb, variation), (roughness, relief, break up, stain)
#endif
vec3 sColour;
float sRough;
float sMetal;
// How the surface leans against its shape, in the eye's space: reliefs of several frames add up in it.
vec3 sSlope;
float sMask;
float sDotted;

#ifdef STEEP
// As core/cenote_core/patinas/sides.py has it: pictures are laid on from above, along x and along z.
varying vec3 vSite;
varying vec3 vFacing;
vec2 sAlongX;
vec2 sAlongZ;
vec3 sShare;

void lookFromSides() {
  vec3 n = normalize(vFacing);
  vec3 weight = max(n * n - 0.25, 0.0);
  sShare = weight / (weight.x + weight.y + weight.z);
  sAlongX = vec2(n.x < 0.0 ? vSite.y : -vSite.y, -vSite.z);
  sAlongZ = vec2(vSite.x, n.z < 0.0 ? -vSite.y : vSite.y);
}

vec4 tiled(sampler2D picture, float tile) {
  return sShare.y * texture2D(picture, vMetre / tile) + sShare.x * texture2D(picture, sAlongX / tile) + sShare.z * texture2D(picture, sAlongZ / tile);
}

vec4 tiled(mediump sampler2DArray pictures, float tile, float which) {
  return sShare.y * texture(pictures, vec3(vMetre / tile, which)) + sShare.x * texture(pictures, vec3(sAlongX / tile, which)) + sShare.z * texture(pictures, vec3(sAlongZ / tile, which));
}
#else
vec4 tiled(sampler2D picture, float tile) {
  return texture2D(picture, vMetre / tile);
}

vec4 tiled(mediump sampler2DArray pictures, float tile, float which) {
  return texture(pictures, vec3(vMetre / tile, which));
}
#endif

float coverAt(int layer) {
#if LAYERS > 0
  return texture(uCovers, vec3(vUnwrap, uLayer[layer * 3].x)).r;
#else
  return 0.0;
#endif
}

${frameCode}
void layDown() {
  vec3 along, across;
  frameOf(vMetre, along, across);
#ifdef STEEP
  lookFromSides();
#endif
#ifdef OWN_BASE
  vec4 c = texture2D(uColour, vBase);
  vec4 r = texture2D(uRelief, vBase);
  float drift = 1.0;
#else
  vec4 c = tiled(uColour, uTile);
  vec4 r = tiled(uRelief, uTile);
  float drift = 0.86 + 0.28 * texture2D(uRelief, vMetre / uTile / MACRO).a;
#endif
  sColour = c.rgb * drift;
  sRough = r.b;
  sMetal = uMetal;
#ifdef OWN_BASE
  // A base with coordinates of its own leans in their frame.
  vec3 baseAlong, baseAcross;
  frameOf(vBase, baseAlong, baseAcross);
  sSlope = baseAlong * (r.r * 2.0 - 1.0) + baseAcross * (r.g * 2.0 - 1.0);
#else
  sSlope = along * (r.r * 2.0 - 1.0) + across * (r.g * 2.0 - 1.0);
#endif
  sMask = 0.0;
  sDotted = uDotted;
#if LAYERS > 0
  for (int k = 0; k < LAYERS; k++) {
    if (k >= uLayers) break;
    vec4 a = uLayer[k * 3], b = uLayer[k * 3 + 1], d = uLayer[k * 3 + 2];
    float cover = texture(uCovers, vec3(vUnwrap, a.x)).r;
    if (cover <= 0.0) continue;
    vec4 fc = tiled(uFinishColour, a.z, a.y);
    vec4 fr = tiled(uFinishRelief, a.z, a.y);
    float t = cover * (1.0 + d.z) - d.z * (1.0 - fr.a);
    t = clamp(t * (1.0 + 2.0 * d.z), 0.0, 1.0);
    float m = t * t * (3.0 - 2.0 * t);
    float vary = 1.0 + b.w * 2.0 * (texture(uFinishRelief, vec3(vMetre / a.w, a.y)).a - 0.5);
    vec3 laid = min(fc.rgb * b.rgb * vary, vec3(1.0));
    vec3 stained = sColour * (0.35 + laid);
    sColour = mix(sColour, mix(laid, stained, d.w), m);
    float keep = m * (1.0 - 0.5 * d.w);
    sRough = mix(sRough, min(1.0, fr.b * d.x), keep);
    sSlope = mix(sSlope, (along * (fr.r * 2.0 - 1.0) + across * (fr.g * 2.0 - 1.0)) * d.y, keep);
    sMetal *= 1.0 - keep;
  }
  if (uMaskLayer >= 0) sMask = coverAt(uMaskLayer);
#endif
}

vec3 bent(vec3 n) {
  return normalize(n + sSlope);
}
`;

/** Relief and roughness of a decal, in the frame of its own picture. */
export const decalHead = /* glsl */ `
uniform sampler2D uRelief;
${frameCode}
vec3 leaned(vec3 n) {
  vec3 along, across;
  frameOf(vMapUv, along, across);
  vec2 relief = texture2D(uRelief, vMapUv).rg * 2.0 - 1.0;
  return normalize(n + along * relief.x + across * relief.y);
}
`;
