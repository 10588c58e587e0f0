import type { ReactNode } from 'react';
import { Section } from '../../ui/Section';
import type { State } from './spells';

type Numbers = (name: keyof State, label: string) => ReactNode;

/** What falls and lies, and how the air is: the numbers of a spell and of the weather that shows, by sections. */
export const weatherNumbers: [title: string, numbers: [name: keyof State, label: string][]][] = [
  [
    'Water',
    [
      ['wetness', 'wetness in the open'],
      ['dried', 'drying since then'],
      ['standing', 'standing water'],
      ['rain', 'rain falling'],
    ],
  ],
  [
    'Snow and frost',
    [
      ['snow', 'snow on open ground'],
      ['melted', 'of it melted'],
      ['snowfall', 'snow falling'],
      ['frost', 'frost'],
      ['icicles', 'longest icicle'],
    ],
  ],
  [
    'In the air',
    [
      ['fog', 'fog'],
      ['dust', 'dust that has settled'],
      ['overcast', 'clouds closed'],
      ['exposure', 'exposure'],
    ],
  ],
];

/** Controls for all of them. */
export function WeatherNumbers({ number }: { number: Numbers }) {
  return (
    <>
      {weatherNumbers.map(([title, numbers]) => (
        <Section key={title} title={title}>
          {numbers.map(([name, label]) => number(name, label))}
        </Section>
      ))}
    </>
  );
}
