import openapi from '../../openapi.json';
import type { Kind, PlanOf, Schemas } from './client';

interface Node {
  $ref?: string;
  allOf?: Node[];
  anyOf?: Node[];
  type?: string;
  const?: unknown;
  default?: unknown;
  properties?: Record<string, Node>;
}

const schemas = openapi.components.schemas as unknown as Record<string, Node>;

function valueOf(node: Node): unknown {
  if (node.default !== undefined) return structuredClone(node.default);
  if (node.const !== undefined) return node.const;
  const ref = node.$ref ?? node.allOf?.[0]?.$ref;
  if (ref) return defaults(ref.split('/').pop()!);
  if (node.anyOf?.some((n) => n.type === 'null')) return null;
  if (node.type === 'array') return [];
  if (node.type === 'object') return {};
  return undefined;
}

/** A model with every setting at the default the core declares; what has none is left out. */
export function defaults(model: string): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const [name, node] of Object.entries(schemas[model]?.properties ?? {})) {
    const value = valueOf(node);
    if (value !== undefined) out[name] = value;
  }
  return out;
}

/** The model of each kind's plan. */
const models = Object.fromEntries(
  Object.entries(schemas)
    .filter(([name]) => name.endsWith('Plan'))
    .map(([name, node]) => [node.properties?.kind?.const, name]),
) as Record<Kind, string>;

/** A new plan of a kind, its defaults changed by what is given. */
export const fresh = <K extends Kind>(kind: K, given: Partial<PlanOf<K>>): PlanOf<K> =>
  ({ ...defaults(models[kind]), ...given }) as unknown as PlanOf<K>;

export type KeepOut = Schemas['KeepOut'];
