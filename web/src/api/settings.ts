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
}

interface Declared {
  unit?: string;
  minimum?: number;
  maximum?: number;
  step?: number;
  description?: string;
  default?: unknown;
  type?: string;
}

const schemas = openapi.components.schemas as unknown as Record<string, { properties?: Record<string, Declared> }>;

export function setting(model: string, field: string): Setting {
  const declared = schemas[model]?.properties?.[field] ?? {};
  return {
    unit: declared.unit ?? '',
    min: declared.minimum ?? -Infinity,
    max: declared.maximum ?? Infinity,
    step: declared.step ?? (declared.type === 'integer' ? 1 : 0.1),
    help: declared.description ?? '',
    fallback: typeof declared.default === 'number' ? declared.default : 0,
    whole: declared.type === 'integer',
  };
}
