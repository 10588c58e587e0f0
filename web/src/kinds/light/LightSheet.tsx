import { Button } from '@mui/material';
import { fresh } from '../../api/defaults';
import { useBenchParts } from '../../state/bench';
import type { PlanOf } from '../../api/client';
import { usePlan, useSite } from '../../state/site';
import { changedWeather } from '../spell/spells';
import { WeatherNumbers } from '../spell/WeatherNumbers';
import { Field } from '../../ui/Field';
import { numbersOf } from '../../ui/numbers';
import { Section } from '../../ui/Section';
import { useItem } from '../../ui/useItem';

export function LightSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep } = useItem(itemKey, 'light');
  if (!plan) return null;
  const number = numbersOf('LightPlan', plan, 'the light', change, keep);
  return (
    <>
      <Section title="Sun">
        {number('azimuth', 'direction, from north')}
        {number('elevation', 'above the horizon')}
      </Section>
      <Section title="Sky">
        {number('cloud', 'cloud')}
        {number('turbidity', 'haziness of the air')}
        {number('haze', 'haze with distance')}
        {number('water_light', 'light thrown up by water')}
        {number('seed', 'seed')}
      </Section>
      <Section title="Picture">{number('exposure', 'exposure')}</Section>
      <Weather />
    </>
  );
}

const months = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const part = (season: number) =>
  `${['early', 'mid', 'late'][Math.min(2, Math.floor((season % 1) * 3))]} ${months[Math.floor(season) % 12]}`;

/** Wind and time of the year. */
function Weather() {
  const { change } = useItem('weather', 'weather');
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const plan = usePlan('weather', 'weather') ?? fresh('weather', {});
  // What is changed here is changed in the spell that shows.
  const keep = (label: string, next: PlanOf<'weather'>) => commit(label, changedWeather(items, next));
  const { windMoves, set } = useBenchParts('windMoves', 'set');
  const number = numbersOf('WeatherPlan', plan, 'the weather', change, keep);
  return (
    <>
      <Section
        title="Wind"
        remark={plan.wind < 0.5 ? 'calm' : plan.wind < 5 ? 'a breeze' : plan.wind < 11 ? 'fresh' : 'strong'}
      >
        {number('wind_from', 'comes from')}
        {number('wind', 'speed')}
        {number('gusts', 'gusts')}
        {number('gust_size', 'gust width')}
        {number('moment', 'moment held')}
        <Button
          variant={windMoves ? 'contained' : 'outlined'}
          aria-pressed={windMoves}
          onClick={() => set({ windMoves: !windMoves })}
        >
          {windMoves ? 'Hold it still' : 'Let it blow'}
        </Button>
      </Section>
      <WeatherNumbers number={number} />
      <Section title="Years" remark={`${Number(plan.years.toFixed(1))} years`}>
        {number('years', 'years it has stood')}
      </Section>
      <Section title="Season" remark={part(plan.season)}>
        <Field
          model="WeatherPlan"
          field="season"
          label="time of the year"
          value={plan.season}
          onDraft={(season) => change({ ...plan, season })}
          onCommit={(season) => keep('season', { ...plan, season })}
        />
      </Section>
    </>
  );
}
