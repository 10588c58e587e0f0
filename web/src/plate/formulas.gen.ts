/** Made by `python -m cenote_core.surfaces.glsl` from core/cenote_core/surfaces/*formulas.py; do not edit. */
export const formulas = /* glsl */ `
const float MACRO = 7.3;
const float GENTLE = 0.25;
const float SHALLOW = 0.0001;
const float SLIDES = 0.34;
const float HOLDS = 0.77;
const float SHELTERED = 0.4;
const float OPEN_SKY = 0.7;
const float POWDER = 0.008;
const float CLUMPS = 0.05;
const float SNOW_WHITE = 0.8;
const float SNOW_ROUGHNESS = 0.8;
const float FELT = 0.004;
const float DUSTING_MELTS = 4.0;
const float WATER_HEAD_ON = 0.02;
const float DRIES = 1.2;
const float FROST_FROM = 0.05;
const float FROST_FULL = 0.95;
const float FROST_UPRIGHT = 0.6;
const float FROST_WHITE = 0.78;
const float FROST_HIDES = 0.55;
const float FROST_ROUGHNESS = 0.7;
const float RIME_WIND = 6.0;
const float RIME_TURNED = 0.25;
const float DUST_SLIDES = 0.35;
const float DUST_HIDES = 0.8;
const float DUST_RED = 0.36;
const float DUST_GREEN = 0.29;
const float DUST_BLUE = 0.21;
const float MUD_HIDES = 0.85;
const float MUD_RED = 0.125;
const float MUD_GREEN = 0.094;
const float MUD_BLUE = 0.064;
const float FOG = 0.05;
const float HAZE = 0.012;
const float THIN_UNDER = 0.1;
const float THICK_FROM = 0.8;
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
float felt_fill(float fill, float depth) {
  return (fill * min((depth / FELT), 1.0));
}
float layer_amount(float cover, float height, float break_up, float under, float fill) {
  float hollows = max(fill, 0.0);
  float tops = max((0.0 - fill), 0.0);
  float t = ((cover * (((1.0 + break_up) + hollows) + tops)) - (break_up * (1.0 - height)));
  t = ((t - (hollows * under)) - (tops * (1.0 - under)));
  t = min(max((t * ((1.0 + (2.0 * break_up)) + (2.0 * (hollows + tops)))), 0.0), 1.0);
  return ((t * t) * (3.0 - (2.0 * t)));
}
float body_share(float cover) {
  float t = min(max(((cover - THIN_UNDER) / (THICK_FROM - THIN_UNDER)), 0.0), 1.0);
  return ((t * t) * (3.0 - (2.0 * t)));
}
float laid_height(float under, float own, float thickness, float fill, float body) {
  return ((under * (1.0 - max(fill, 0.0))) + ((thickness + own) * body));
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
float kept_share(float amount, float stain, float film) {
  return (amount * (1.0 - ((0.5 * stain) * (1.0 - film))));
}
float side_weight(float part, float squared_length) {
  return max(((part * part) - (GENTLE * max(squared_length, 1e-24))), 0.0);
}
float wet_share(float wetness, float dried, float exposure, float under) {
  return min(max((((2.0 * exposure) * (wetness - ((DRIES * dried) * exposure))) - under), 0.0), 1.0);
}
vec3 wet_colour(vec3 dry, float wet, float metal, float porosity) {
  vec3 soaked = (((LET_IN * dry) * (1.0 - HELD_IN)) / (1.0 - (HELD_IN * dry)));
  return (dry + ((soaked - dry) * ((wet * (1.0 - metal)) * porosity)));
}
float wet_roughness(float dry, float wet) {
  return (dry + (((min(dry, FILM_ROUGHNESS) - dry) * wet) * wet));
}
float kept_slope(float wet) {
  return (1.0 - ((FILM_LEVELS * wet) * wet));
}
float water_mirrors(float seen) {
  float grazing = (1.0 - min(max(seen, 0.0), 1.0));
  float fifth = ((((grazing * grazing) * grazing) * grazing) * grazing);
  return (WATER_HEAD_ON + ((1.0 - WATER_HEAD_ON) * fifth));
}
float snow_depth(float fallen, float exposure, float up) {
  float falls = min(max(((exposure - SHELTERED) / (OPEN_SKY - SHELTERED)), 0.0), 1.0);
  float holds = min(max(((up - SLIDES) / (HOLDS - SLIDES)), 0.0), 1.0);
  return ((((((fallen * falls) * falls) * (3.0 - (2.0 * falls))) * holds) * holds) * (3.0 - (2.0 * holds)));
}
float snow_share(float lies, float depth, float under) {
  return min(max((((2.0 * lies) / max(depth, POWDER)) - under), 0.0), 1.0);
}
float snow_on_leaf(float lies, float x, float y, float z) {
  float across = sin(((113.0 * x) + (2.0 * sin((67.0 * z)))));
  float along = sin(((127.0 * z) + (2.0 * sin((71.0 * y)))));
  float upward = sin(((97.0 * y) + (2.0 * sin((83.0 * x)))));
  float held = min((lies / CLUMPS), 1.0);
  return min(max((((1.5 * held) - 0.6) + ((0.3 * held) * ((across + along) + upward))), 0.0), 1.0);
}
vec3 snow_colour(vec3 bare, float share) {
  return (bare + ((SNOW_WHITE - bare) * share));
}
float snow_roughness(float bare, float share) {
  return (bare + ((SNOW_ROUGHNESS - bare) * share));
}
float frost_share(float frost, float exposure, float up, float under) {
  float open_sky = min(max(((exposure - FROST_FROM) / (FROST_FULL - FROST_FROM)), 0.0), 1.0);
  float level = min(max((FROST_UPRIGHT + ((1.0 - FROST_UPRIGHT) * up)), 0.0), 1.0);
  return min(max(((((2.0 * frost) * open_sky) * level) - (1.0 - under)), 0.0), 1.0);
}
vec3 frost_colour(vec3 bare, float share) {
  return (bare + ((FROST_WHITE - bare) * (share * FROST_HIDES)));
}
float frost_roughness(float bare, float share) {
  return (bare + ((FROST_ROUGHNESS - bare) * share));
}
float crystals(float x, float y, float z) {
  float one = sin((((((1210.0 * x) + (430.0 * y)) - (690.0 * z)) + (4.0 * sin(((210.0 * y) + (90.0 * z))))) + (3.0 * sin((330.0 * x)))));
  float two = sin((((((1130.0 * y) - (520.0 * x)) + (610.0 * z)) + (4.0 * sin(((260.0 * z) - (70.0 * x))))) + (3.0 * sin((410.0 * y)))));
  float three = sin((((((300.0 * x) - (760.0 * y)) + (1290.0 * z)) + (4.0 * sin(((190.0 * x) + (230.0 * y))))) + (3.0 * sin((370.0 * z)))));
  return min(max((0.62 + (0.22 * ((one + two) + three))), 0.0), 1.0);
}
float rime_share(float rime, float into) {
  return (rime * min((max(((into - RIME_TURNED) / (1.0 - RIME_TURNED)), 0.0) * 2.5), 1.0));
}
float dust_share(float dust, float up, float under) {
  float level = min(max(((up - DUST_SLIDES) / (1.0 - DUST_SLIDES)), 0.0), 1.0);
  return (DUST_HIDES * min(max((((2.0 * dust) * level) - under), 0.0), 1.0));
}
float mud_share(float mud, float under) {
  return (MUD_HIDES * min(max(((2.0 * mud) - under), 0.0), 1.0));
}
float fog_density(float fog) {
  return ((FOG * fog) * fog);
}
float haze_density(float haze) {
  return ((HAZE * haze) * haze);
}
`;

export const windFormulas = /* glsl */ `
const float TURN = 6.283185307179586;
const float STRONG = 12.0;
const float LEAN = 0.16;
const float SWING = 0.35;
const float BOB = 0.045;
const float FLUTTER = 0.014;
const float SAG = 0.11;
const float LOADED = 0.08;
const float SHORTEST = 0.05;
float gust_wave(float along, float across) {
  return ((0.6 * sin((TURN * along))) + (0.4 * sin((TURN * ((1.7 * along) + (0.6 * across))))));
}
float wind_force(float speed, float gusts, float wave) {
  return min(max(((speed / STRONG) * (1.0 + (gusts * wave))), 0.0), 2.0);
}
float phase_seed(float x, float z) {
  return ((x * 0.731) + (z * 1.137));
}
float swing_rate(float height) {
  return (1.1 / sqrt(max(height, 0.15)));
}
float stem_lean(float height, float force, float stem, float swings) {
  return ((((height * LEAN) * force) * stem) * (1.0 + (SWING * sin((TURN * swings)))));
}
float branch_bob(float height, float force, float branch, float rate, float time, float phase) {
  return ((((height * BOB) * force) * branch) * sin((TURN * (((2.3 * rate) * time) + phase))));
}
float leaf_flutter(float force, float leaf, float time, float phase) {
  return (((FLUTTER * leaf) * (force + 0.15)) * sin((TURN * ((3.7 * time) + phase))));
}
float lean_drop(float lean, float height) {
  return (((0.5 * lean) * lean) / max(height, SHORTEST));
}
float snow_load(float snow, float speed) {
  return ((snow / (snow + LOADED)) * max((1.0 - (speed / STRONG)), 0.0));
}
float snow_sag(float height, float load, float stem, float branch) {
  return (((SAG * sqrt(max(height, SHORTEST))) * load) * (branch + ((0.6 * stem) * stem)));
}
`;

export const constants = {
  MACRO: 7.3,
  GENTLE: 0.25,
  SHALLOW: 0.0001,
  SLIDES: 0.34,
  HOLDS: 0.77,
  SHELTERED: 0.4,
  OPEN_SKY: 0.7,
  POWDER: 0.008,
  CLUMPS: 0.05,
  SNOW_WHITE: 0.8,
  SNOW_ROUGHNESS: 0.8,
  FELT: 0.004,
  DUSTING_MELTS: 4.0,
  WATER_HEAD_ON: 0.02,
  DRIES: 1.2,
  FROST_FROM: 0.05,
  FROST_FULL: 0.95,
  FROST_UPRIGHT: 0.6,
  FROST_WHITE: 0.78,
  FROST_HIDES: 0.55,
  FROST_ROUGHNESS: 0.7,
  RIME_WIND: 6.0,
  RIME_TURNED: 0.25,
  DUST_SLIDES: 0.35,
  DUST_HIDES: 0.8,
  DUST_RED: 0.36,
  DUST_GREEN: 0.29,
  DUST_BLUE: 0.21,
  MUD_HIDES: 0.85,
  MUD_RED: 0.125,
  MUD_GREEN: 0.094,
  MUD_BLUE: 0.064,
  FOG: 0.05,
  HAZE: 0.012,
  THIN_UNDER: 0.1,
  THICK_FROM: 0.8,
  LET_IN: 0.98,
  HELD_IN: 0.472,
  FILM_ROUGHNESS: 0.1,
  FILM_LEVELS: 0.7,
};
