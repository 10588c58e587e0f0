import openapi from '../../openapi.json';
import type { Rule } from './client';

export type Measure = Rule['measure'];

/** What a measure's own file in the core says of it. */
export interface About {
  title: string;
  unit: '°' | 'm' | 'h' | '';
  says: string;
  /** What the read-out calls its values. */
  noun: string;
  /** A gate to start from. */
  start: [number, number, number, number];
  place: number;
  /** The range a histogram shows; none where that hangs on the site. */
  span: [number, number] | null;
  /** Shown beside the title, with fields in braces. */
  badge: string;
  /** What its details hold beside the strength. */
  more: string;
  only: string[];
  model: string;
  fields: MeasureField[];
}

/** A setting of one measure alone. */
export interface MeasureField {
  name: string;
  label: string;
  slider?: { min: number; max: number; curve: number };
  /** Items of a kind, an image or a line to choose. */
  choose?: string;
  /** What it means that none is chosen. */
  none: string;
  /** Words for each of some values. */
  words?: Record<string, string>;
  bearing: boolean;
}

interface Declared {
  'x-measure'?: Omit<About, 'model' | 'fields'>;
  properties?: Record<
    string,
    {
      default?: unknown;
      label?: string;
      slider?: [number, number, number];
      choose?: string;
      none?: string;
      words?: Record<string, string>;
      bearing?: boolean;
    }
  >;
}

const COMMON = ['measure', 'gate', 'strength', 'active'];

function fieldsOf({ properties = {} }: Declared): MeasureField[] {
  return Object.entries(properties)
    .filter(([name]) => !COMMON.includes(name))
    .map(([name, { label, slider, choose, none, words, bearing }]) => ({
      name,
      label: label ?? name,
      choose,
      words,
      none: none ?? '',
      bearing: bearing ?? false,
      ...(slider ? { slider: { min: slider[0], max: slider[1], curve: slider[2] } } : {}),
    }));
}

const declared = Object.entries(openapi.components.schemas as unknown as Record<string, Declared>)
  .flatMap(([model, schema]) => {
    const about = schema['x-measure'];
    return about
      ? [
          {
            measure: schema.properties!.measure.default as Measure,
            about: { ...about, model, fields: fieldsOf(schema) },
          },
        ]
      : [];
  })
  .sort((a, b) => a.about.place - b.about.place);

/** Every measure, in the order of the menu. */
export const measures = Object.fromEntries(declared.map(({ measure, about }) => [measure, about])) as Record<
  Measure,
  About
>;
