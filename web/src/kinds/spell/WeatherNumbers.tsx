import type { ReactNode } from 'react';
import { Section } from '../../bench/controls/Section';
import type { State } from './spells';

type Numbers = (name: keyof State, label: string) => ReactNode;

/** What falls and lies, and how the air is: the numbers of a spell and of the weather that shows. */
export function WeatherNumbers({ number }: { number: Numbers }) {
  return (
    <>
      <Section title="Water">
        {number('wetness', 'wetness in the open')}
        {number('dried', 'dried since')}
        {number('standing', 'standing water')}
        {number('rain', 'rain falling')}
      </Section>
      <Section title="Snow and frost">
        {number('snow', 'snow on open ground')}
        {number('melted', 'of it melted')}
        {number('snowfall', 'snow falling')}
        {number('frost', 'frost')}
        {number('icicles', 'longest icicle')}
      </Section>
      <Section title="In the air">
        {number('fog', 'fog')}
        {number('dust', 'dust that has settled')}
        {number('overcast', 'clouds closed')}
        {number('exposure', 'exposure')}
      </Section>
    </>
  );
}
