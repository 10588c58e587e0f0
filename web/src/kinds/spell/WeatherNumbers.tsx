import type { ReactNode } from 'react';
import { sectionsOf, setting } from '../../api/settings';
import { Section } from '../../ui/Section';
import type { State } from './spells';

type Numbers = (name: keyof State, label: string) => ReactNode;

/** What falls and lies, and how the air is: the numbers of a spell and of the weather that shows, as they are declared. */
export const weatherNumbers = sectionsOf('WeatherPlan').map(([title, fields]) => ({
  title,
  numbers: (fields as (keyof State)[]).map((name) => {
    const { label = name, gauge } = setting('WeatherPlan', name);
    return { name, label, gauge };
  }),
}));

/** Controls for all of them. */
export function WeatherNumbers({ number }: { number: Numbers }) {
  return (
    <>
      {weatherNumbers.map(({ title, numbers }) => (
        <Section key={title} title={title}>
          {numbers.map(({ name, label }) => number(name, label))}
        </Section>
      ))}
    </>
  );
}
