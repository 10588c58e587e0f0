/**
 * Relief seen at a slant: where the line of sight meets a picture's height instead of the flat it is laid on.
 *
 * After Policarpo, Oliveira and Comba, *Real-Time Relief Mapping on Arbitrary Polygonal Surfaces* (2005): even steps down
 * from the highest level, then one straight line between the last two. Only with a graphics card, and only near the eye.
 */
export const parallaxCode = /* glsl */ `
// Metres from the eye within which relief is marched through, and the share of that up to which in full.
#define PARALLAX_REACH 6.0
#define PARALLAX_WHOLE 0.6
// Relief below this is left to the shading, metres.
#define PARALLAX_LEAST 0.002
#define PARALLAX_STEPS 32
// The line of sight counts as no flatter than this (sine of its rise).
#define PARALLAX_FLATTEST 0.18

// Where a picture is looked up for what is seen at 'at', metres; 'share' of its relief.
vec2 raised(vec2 at, vec3 along, vec3 across, float share) {
  float away = length(vViewPosition);
  float depth = uDepth * share * (1.0 - smoothstep(PARALLAX_WHOLE * PARALLAX_REACH, PARALLAX_REACH, away));
  vec2 dx = dFdx(at) / uTile, dy = dFdy(at) / uTile;
  if (depth < PARALLAX_LEAST) return at;
  vec3 eye = vViewPosition / away;
  float rise = max(abs(dot(eye, normalize(vNormal))), PARALLAX_FLATTEST);
  vec2 run = vec2(dot(eye, along), dot(eye, across)) * depth / rise;
  float steps = mix(float(PARALLAX_STEPS), 10.0, rise);
  float level = 1.0, above = 1.0, before = 1.0;
  for (int k = 0; k < PARALLAX_STEPS; k++) {
    above = level - textureGrad(uRelief, (at + run * (level - 0.5)) / uTile, dx, dy).a;
    if (above <= 0.0 || level <= 0.0) break;
    before = above;
    level -= 1.0 / steps;
  }
  level += above < 0.0 ? -above / (before - above) / steps : 0.0;
  return at + run * (level - 0.5);
}
`;
