import { later } from '../api/patient';
import { useSession } from '../api/session';
import type { ItemPlan } from '../api/client';

export interface Pending {
  /** Its own: sent again, the server answers what it answered before. */
  id: string;
  label: string;
  edits: { key: string; revision: number; plan: ItemPlan | null }[];
}

/** An edit the server does not take, whatever is done: kept, named, out of the way of the next ones. */
export interface Aside extends Pending {
  reason: string;
}

/** What of a site's edits has not arrived yet, in order. The first may be on its way, or wait for a conflict to be settled. */
export interface Outbox {
  id: string;
  waiting: Pending[];
  aside: Aside[];
  sending: Promise<void> | null;
  /** How often in a row the first was not taken. */
  tries: number;
}

/** Milliseconds after which what was not taken is sent again: longer each time, up to the last. */
const PAUSES = [2000, 2000, 4000, 8000, 15_000, 30_000];
export const pauseAfter = (tries: number) => PAUSES[Math.min(tries, PAUSES.length - 1)];
/** So often a failure of the server is tried again before the edit is set aside. */
const FAILURES = 3;

const PREFIX = 'cenote.unsent.';
/** Each page keeps its own: two on one site must not write over each other's. */
const page = crypto.randomUUID();
const rootOf = (site: string) => `${PREFIX}${site}.${useSession.getState().user}.`;
/** Held as long as this page lives. */
const lockOf = (name: string) => `cenote.page.${name}`;
void globalThis.navigator?.locks?.request(lockOf(page), () => new Promise<void>(() => undefined));

export const named = () => crypto.randomUUID() as string;
export const emptyOutbox = (id: string): Outbox => ({ id, waiting: [], aside: [], sending: null, tries: 0 });

/** Leave what has not arrived where the next visit finds it. */
export function keep({ id, waiting, aside }: Outbox) {
  const key = rootOf(id) + page;
  try {
    if (waiting.length || aside.length) localStorage.setItem(key, JSON.stringify({ waiting, aside }));
    else localStorage.removeItem(key);
  } catch {
    /* A full or forbidden store only means that closing the page loses what was not yet sent. */
  }
}

/** What earlier pages of this person on a site have left behind. Taken over twice it still arrives once, by its ids. */
export async function leftBehind(site: string): Promise<Pick<Outbox, 'waiting' | 'aside'>> {
  const found: Pick<Outbox, 'waiting' | 'aside'> = { waiting: [], aside: [] };
  try {
    const root = rootOf(site);
    for (const key of keysKept().filter((k) => k.startsWith(root))) {
      const name = key.slice(root.length);
      // This page itself may have been at another site meanwhile.
      if (name !== page && (await alive(name))) continue;
      const { waiting, aside } = JSON.parse(localStorage.getItem(key) ?? '{}') as Partial<Outbox>;
      found.waiting.push(...(waiting ?? []));
      found.aside.push(...(aside ?? []));
      localStorage.removeItem(key);
    }
  } catch {
    /* What cannot be read is not there. */
  }
  return found;
}

const keysKept = () => Array.from({ length: localStorage.length }, (_, k) => localStorage.key(k) ?? '');

/** Is the page of that name still open? Where pages cannot tell, none is taken to be. */
async function alive(name: string): Promise<boolean> {
  const locks = globalThis.navigator?.locks;
  return Boolean(await locks?.request(lockOf(name), { ifAvailable: true }, (lock) => lock === null));
}

export type Verdict = 'taken' | 'stale' | 'later' | 'sign in' | 'token' | 'aside' | 'refused';

/** What an answer means for the edit that was sent. Nothing but a refusal of the edit itself takes it out of the outbox. */
export function verdictOf(status: number, stale: boolean, tries: number): Verdict {
  if (status < 300) return 'taken';
  if (status === 401) return 'sign in';
  if (status === 403) return 'token';
  if (status === 404 || status === 413) return 'aside';
  if (stale) return 'stale';
  if (later(status) || status === 507) return 'later';
  if (status >= 500) return tries + 1 < FAILURES ? 'later' : 'aside';
  return 'refused';
}
