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
  /** What a sheet calls it, where it is not called by its field's name. */
  label?: string;
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
  /** Of what may also be nothing: the bounds of what it is otherwise. */
  anyOf?: Declared[];
}

const schemas = openapi.components.schemas as unknown as Record<string, { properties?: Record<string, Declared> }>;

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
    label: declared.label,
    slider: declared.slider ? { min: declared.slider[0], max: declared.slider[1], curve: declared.slider[2] } : null,
  };
}
