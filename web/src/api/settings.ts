import openapi from '../../openapi.json';

/** What the core's models declare about a setting: unit, range, default and a sentence of help. */
export interface Setting {
  unit: string;
  min: number;
  max: number;
  step: number;
  help: string;
  fallback: number;
  whole: boolean;
  /** Is it a number at all? */
  number: boolean;
  /** What a sheet calls it, where it is not called by its field's name. */
  label?: string;
  /** As a column on a card: in a word, the value that fills it, and the field that is taken off (or none). */
  gauge?: [word: string, full: number, less: string];
  /** The useful stretch for dragging; none for what is only typed. */
  slider: { min: number; max: number; curve: number } | null;
}

interface Declared {
  unit?: string;
  minimum?: number;
  maximum?: number;
  step?: number;
  description?: string;
  default?: unknown;
  type?: string;
  slider?: [number, number, number];
  label?: string;
  gauge?: [string, number, string];
  /** Of what may also be nothing: the bounds of what it is otherwise. */
  anyOf?: Declared[];
}

interface Model {
  properties?: Record<string, Declared>;
  sections?: [title: string, fields: string[]][];
}

const schemas = openapi.components.schemas as unknown as Record<string, Model>;

/** The names of a model's settings. */
export const settingsOf = (model: string) => Object.keys(schemas[model]?.properties ?? {});

/** The numbers of a model whose sheet is listed by itself, by sections, in the order they are declared in. */
export const sectionsOf = (model: string) => schemas[model]?.sections ?? [];

export function setting(model: string, field: string): Setting {
  const said = schemas[model]?.properties?.[field] ?? {};
  const declared = { ...said.anyOf?.[0], ...said };
  return {
    unit: declared.unit ?? '',
    min: declared.minimum ?? -Infinity,
    max: declared.maximum ?? Infinity,
    step: declared.step ?? (declared.type === 'integer' ? 1 : 0.1),
    help: declared.description ?? '',
    fallback: typeof declared.default === 'number' ? declared.default : 0,
    whole: declared.type === 'integer',
    number: declared.type === 'number' || declared.type === 'integer',
    label: declared.label,
    gauge: declared.gauge,
    slider: declared.slider ? { min: declared.slider[0], max: declared.slider[1], curve: declared.slider[2] } : null,
  };
}
