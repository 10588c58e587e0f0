import * as THREE from 'three';
import type { PlanOf } from '../api/client';
import { constants } from './formulas.gen';
import { rimeOf } from './rime';

type Weather = PlanOf<'weather'>;

/** Metres of snow on open level ground as surfaces have it: a dusting goes first of what melts. */
export const dustingOf = ({ snow, melted }: Pick<Weather, 'snow' | 'melted'>) =>
  Math.max(0, snow - constants.DUSTING_MELTS * melted) / 100;

/** What the weather lays on surfaces: one number more is a line here, and what the shaders make of it. */
const layings = {
  wetness: (weather: Weather) => weather.wetness,
  dried: (weather: Weather) => weather.dried,
  snow: dustingOf,
  frost: (weather: Weather) => weather.frost,
  dust: (weather: Weather) => weather.dust,
};
type Laying = keyof typeof layings;
const names = Object.keys(layings) as Laying[];

/** As it lies now, for all materials at once. */
const lying = Object.fromEntries(names.map((name) => [name, { value: 0 }])) as Record<Laying, { value: number }>;
const rime = { value: new THREE.Vector3() };

/** The same as shaders name it: `uWetness`, `uFrost` and so on. */
export const fallenUniforms: Record<string, THREE.IUniform> = {
  ...Object.fromEntries(names.map((name) => [`u${name[0].toUpperCase()}${name.slice(1)}`, lying[name]])),
  uRime: rime,
};

/** Lay what a weather lays; true if that is another than lay there. */
export function layDown(weather: Weather): boolean {
  const grows = rimeOf(weather.frost, weather.wind, weather.wind_from);
  const same = names.every((name) => lying[name].value === layings[name](weather)) && rime.value.equals(grows);
  if (same) return false;
  for (const name of names) lying[name].value = layings[name](weather);
  rime.value.copy(grows);
  return true;
}

/** Does anything lie anywhere? */
export const somethingLies = () => names.some((name) => lying[name].value > 0);
