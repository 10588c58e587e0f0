import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema.gen';

export type Schemas = components['schemas'];
type AnyPlan = NonNullable<Schemas['EditIn']['plan']>;
export type Kind = AnyPlan['kind'];
/** The server always sends plans with every setting filled in. */
export type PlanOf<K extends Kind> = Required<Extract<AnyPlan, { kind: K }>>;
export type ItemPlan = { [K in Kind]: PlanOf<K> }[Kind];
export type Rule = NonNullable<Schemas['DriftPlan']['rules']>[number];
export interface ItemOut {
  key: string;
  revision: number;
  deleted: boolean;
  plan: ItemPlan;
}
/** openapi-fetch loses the lengths of tuples on the way; the server's models keep them. */
export const asItems = (items: unknown) => items as ItemOut[];
export type Gate = Schemas['Gate'];
export type Asset = Schemas['AssetOut'];
export type Weathering = Schemas['WeatheringOut'];
export type Manifest = Schemas['Manifest'];
export type Job = Schemas['JobOut'];
export type Effect = Omit<Schemas['EffectOut'], 'plan'> & { plan: ItemPlan | null };

let token = '';
export const setToken = (value: string) => {
  token = value;
};
/** Tells this open page from others: of the previews of one page the newest alone is computed. */
const tab = crypto.randomUUID();
export const writeHeaders = () => ({ 'X-CSRFToken': token, 'X-Cenote-Tab': tab });

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', token);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: '/' });
api.use(csrf);

/** The sentence an error answer carries. */
export function sentence(error: unknown): string {
  if (error && typeof error === 'object' && 'detail' in error) {
    const detail = (error as { detail: unknown }).detail;
    return typeof detail === 'string' ? detail : JSON.stringify(detail);
  }
  if (error instanceof TypeError)
    return 'The server cannot be reached. Your work is kept here and sent when it is back.';
  return 'Something unforeseen went wrong. Nothing was changed; try again.';
}

/** Fetch binary data; null when it was overtaken by a newer request. */
export async function fetchBytes(url: string, init?: RequestInit): Promise<ArrayBuffer> {
  const answer = await fetch(url, { credentials: 'same-origin', ...init });
  if (!answer.ok) {
    let detail: unknown = null;
    try {
      detail = await answer.json();
    } catch {
      detail = null;
    }
    throw detail ?? new TypeError(`status ${answer.status}`);
  }
  return answer.arrayBuffer();
}
