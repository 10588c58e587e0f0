import { fresh } from '../../api/defaults';
import { setting, settingsOf } from '../../api/settings';
import type { ItemPlan, PlanOf } from '../../api/client';
import { itemsOf, type Item } from '../../state/site';

export type Spell = PlanOf<'spell'>;
export type Weather = PlanOf<'weather'>;
type Edits = { key: string; plan: ItemPlan | null }[];

/** What each has for itself. */
type Own = 'kind' | 'name' | 'note' | 'visible' | 'locked' | 'spell';
export type State = Omit<Weather, Own>;

/** What a spell and the weather have in common: the numbers both declare. */
const STATE = settingsOf('WeatherPlan').filter(
  (name) => settingsOf('SpellPlan').includes(name) && setting('WeatherPlan', name).number,
) as (keyof State)[];

export const stateOf = (plan: Weather | Spell): State =>
  Object.fromEntries(STATE.map((name) => [name, plan[name]])) as unknown as State;

/** The spells of a site in the order of their row. */
export const spellsOf = (items: Record<string, Item>) =>
  itemsOf(items, 'spell').sort((a, b) => a.plan.order - b.plan.order || a.plan.name.localeCompare(b.plan.name));

export const weatherOf = (items: Record<string, Item>): Weather =>
  (items.weather?.plan as Weather | undefined) ?? fresh('weather', {});

/** The weather becomes what a spell says. */
export function shown(items: Record<string, Item>, key: string, spell: Spell): Edits {
  return [{ key: 'weather', plan: { ...weatherOf(items), ...stateOf(spell), spell: key } }];
}

/** The weather as it is changed, and the spell it is along with it. */
export function changedWeather(items: Record<string, Item>, weather: Weather): Edits {
  const spell = items[weather.spell]?.plan;
  const along = spell?.kind === 'spell' ? [{ key: weather.spell, plan: { ...spell, ...stateOf(weather) } }] : [];
  return [{ key: 'weather', plan: weather }, ...along];
}

/** A spell as it is changed, and the weather along with it if it shows. */
export function changedSpell(items: Record<string, Item>, key: string, spell: Spell): Edits {
  const weather = weatherOf(items);
  return [{ key, plan: spell }, ...(weather.spell === key ? shown(items, key, spell) : [])];
}

const MONTHS = 12;

/** Part of the way from one state to another; directions and times of the year go the shorter way round. */
export function between(from: State, to: State, share: number): State {
  const round = (a: number, b: number, whole: number) => {
    const way = ((((b - a) % whole) + whole * 1.5) % whole) - whole / 2;
    return (((a + way * share) % whole) + whole) % whole;
  };
  const straight = (name: keyof State) => from[name] + (to[name] - from[name]) * share;
  return {
    ...(Object.fromEntries(STATE.map((name) => [name, straight(name)])) as unknown as State),
    wind_from: round(from.wind_from, to.wind_from, 360),
    season: round(from.season, to.season, MONTHS),
  };
}

/** Hours in which the open dries, and in which hoar frost is gone. */
const DRIES_IN = 14;
const FROST_GOES_IN = 3;
/** Centimetres of snow that melt, and millimetres of standing water that soak and dry away, in an hour. */
const MELTS = 0.35;
/** Centimetres by which the longest icicle is shorter after an hour. */
const ICICLES_GO = 1.5;
const SOAKS = 0.5;

/** What a state has become after some hours of sun and wind: it stops raining, dries, soaks away and thaws. */
export function later(from: State, hours: number): State {
  if (hours <= 0) return from;
  return {
    ...from,
    rain: 0,
    snowfall: 0,
    dried: Math.min(1, from.dried + hours / DRIES_IN),
    standing: Math.max(0, from.standing - SOAKS * hours),
    frost: Math.max(0, from.frost * (1 - hours / FROST_GOES_IN)),
    icicles: Math.max(0, from.icicles - ICICLES_GO * hours),
    melted: Math.min(from.snow, from.melted + MELTS * hours),
  };
}
