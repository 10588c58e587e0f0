import createClient, { type Middleware } from 'openapi-fetch';
import { later, ONCE, patientFetch, patiently } from './patient';
import { endSession, useSession } from './session';
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
  onResponse({ request, response }) {
    if (response.status === 401 && !request.url.endsWith('/sign-in')) endSession();
  },
};

export const api = createClient<paths>({ baseUrl: '/', fetch: patientFetch });
api.use(csrf);

/** Headers of a request that is done once, however often it is sent. */
export const once = (id: string = crypto.randomUUID()) => ({ [ONCE]: id });

/** Ask for the token anew, where another page has signed in since. False where this page's person is signed in no more. */
export async function renewToken(): Promise<boolean> {
  const { data } = await api.GET('/api/accounts/me');
  if (!data) throw new TypeError('no answer');
  setToken(data.csrf);
  const { user } = useSession.getState();
  const here = data.person?.user === user;
  if (!here && user) endSession();
  return here;
}

/** The data of an answer; what it was refused with is thrown, with its status. */
export function given<T>({ data, error, response }: { data?: T; error?: unknown; response: Response }): T {
  if (data !== undefined && response.ok) return data;
  throw Object.assign(Object(error ?? {}) as object, { status: response.status });
}

/** May it go well when it is asked for again? */
export function passing(error: unknown): boolean {
  const status = (error as { status?: number } | null)?.status;
  return status === undefined ? error instanceof TypeError : later(status);
}

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
  const answer = await patiently((cache) =>
    fetch(url, { credentials: 'same-origin', ...init, ...(cache && { cache }) }),
  );
  if (answer.status === 401) endSession();
  if (!answer.ok) {
    let detail: object | null = null;
    try {
      detail = await answer.json();
    } catch {
      detail = null;
    }
    throw Object.assign(detail ?? new TypeError(`status ${answer.status}`), { status: answer.status });
  }
  return answer.arrayBuffer();
}
