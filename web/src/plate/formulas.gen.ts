/** Made by `python -m cenote_core.surfaces.glsl` from core/cenote_core/surfaces/formulas.py; do not edit. */
export const formulas = /* glsl */ `
const float MACRO = 7.3;
const float GENTLE = 0.25;
const float SHALLOW = 0.0001;
const float LET_IN = 0.98;
const float HELD_IN = 0.472;
const float FILM_ROUGHNESS = 0.1;
const float FILM_LEVELS = 0.7;
float macro_brightness(float height) {
  return (0.86 + (0.28 * height));
}
float metres(float height, float depth) {
  return ((height - 0.5) * depth);
}
float under_relief(float height, float depth) {
  return min(max((0.5 + (height / max(depth, SHALLOW))), 0.0), 1.0);
}
float layer_amount(float cover, float height, float break_up, float under, float fill) {
  float t = (((cover * ((1.0 + break_up) + fill)) - (break_up * (1.0 - height))) - (fill * under));
  t = min(max((t * ((1.0 + (2.0 * break_up)) + (2.0 * fill))), 0.0), 1.0);
  return ((t * t) * (3.0 - (2.0 * t)));
}
float laid_height(float under, float own, float thickness, float fill) {
  return (((under * (1.0 - fill)) + thickness) + own);
}
float variation_factor(float variation, float height) {
  return (1.0 + ((variation * 2.0) * (height - 0.5)));
}
vec3 laid_colour(vec3 picture, vec3 tint, float factor) {
  return min(((picture * tint) * factor), 1.0);
}
vec3 blend_colour(vec3 under, vec3 laid, float stain, float amount) {
  vec3 stained = (under * (0.35 + laid));
  return (under + (((laid + ((stained - laid) * stain)) - under) * amount));
}
float kept_share(float amount, float stain) {
  return (amount * (1.0 - (0.5 * stain)));
}
float side_weight(float part, float squared_length) {
  return max(((part * part) - (GENTLE * max(squared_length, 1e-24))), 0.0);
}
float wet_share(float wetness, float exposure, float under) {
  return min(max((((2.0 * wetness) * exposure) - under), 0.0), 1.0);
}
vec3 wet_colour(vec3 dry, float wet, float metal) {
  vec3 soaked = (((LET_IN * dry) * (1.0 - HELD_IN)) / (1.0 - (HELD_IN * dry)));
  return (dry + ((soaked - dry) * (wet * (1.0 - metal))));
}
float wet_roughness(float dry, float wet) {
  return (dry + (((min(dry, FILM_ROUGHNESS) - dry) * wet) * wet));
}
float kept_slope(float wet) {
  return (1.0 - ((FILM_LEVELS * wet) * wet));
}
`;
