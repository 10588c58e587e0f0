import { create } from 'zustand';
import { lockedBy, lockedSentence } from './locks';
import {
  api,
  asItems,
  once,
  passing,
  renewToken,
  sentence,
  type ItemOut,
  type ItemPlan,
  type Kind,
  type PlanOf,
} from '../api/client';
import { endSession, useSession } from '../api/session';
import { emptyOutbox, keep, leftBehind, named, pauseAfter, verdictOf, type Aside, type Outbox } from './outbox';

export interface Item<P = ItemPlan> {
  key: string;
  revision: number;
  plan: P;
}

export interface Edit {
  key: string;
  plan: ItemPlan | null;
}

export interface Conflict {
  label: string;
  mine: Edit[];
  theirs: ItemOut[];
}

/** What somebody else did to the same items since a step that is to be taken back or done again. */
export interface OthersStep {
  detail: string;
  whose: string;
  label: string;
  number: number;
  back: boolean;
}

interface SiteState {
  id: string;
  name: string;
  role: string;
  revision: number;
  items: Record<string, Item>;
  drafts: Record<string, ItemPlan>;
  undo: string;
  redo: string;
  saving: 'saved' | 'saving' | 'waiting';
  /** Edits the server does not take; kept until they are sent again or given up. */
  aside: Aside[];
  savedAt: string;
  trouble: string;
  notice: string;
  conflict: Conflict | null;
  others: OthersStep | null;
  selected: string | null;
  load: (id: string) => Promise<boolean>;
  commit: (label: string, edits: Edit[]) => void;
  draft: (key: string, plan: ItemPlan | null) => void;
  stepBack: () => Promise<void>;
  stepForward: () => Promise<void>;
  select: (key: string | null) => void;
  /** Send what waits, now: somebody has signed in again, or is tired of waiting. */
  goOn: () => void;
  /** Send once more what was set aside, or let it go. */
  settleAside: (again: boolean) => void;
  settle: (take: 'mine' | 'theirs') => void;
  /** Take back what somebody else did since, then one's own step; or let both be. */
  settleOthers: (take: boolean) => Promise<void>;
  say: (notice: string) => void;
  clearTrouble: () => void;
}

/** Of the open site. */
let outbox: Outbox = emptyOutbox('');
let nextTry: number | undefined;
/** A step back or forward whose answer never came: asked for again, it is the same step. */
let unanswered: { back: boolean; of?: number; id: string } | null = null;

/** Items as they are once what waits has arrived. */
function withUnsent(items: Record<string, Item>, site: string): Record<string, Item> {
  const { id, waiting } = outbox;
  if (id !== site) return items;
  const next = { ...items };
  for (const { key, plan, revision } of waiting.flatMap(({ edits }) => edits))
    if (plan === null) delete next[key];
    else next[key] = { key, plan, revision };
  return next;
}

/** Everything authored on the open site. Edits show at once, are sent in order, and survive a lost connection. */
export const useSite = create<SiteState>((set, get) => {
  const take = (items: ItemOut[]) => {
    const next = { ...get().items };
    const waiting = new Set(outbox.waiting.flatMap((p) => p.edits.map((e) => e.key)));
    for (const item of items) {
      if (item.deleted) delete next[item.key];
      else if (waiting.has(item.key) && next[item.key]) next[item.key] = { ...next[item.key], revision: item.revision };
      else next[item.key] = { key: item.key, revision: item.revision, plan: item.plan };
    }
    for (const pending of outbox.waiting)
      for (const edit of pending.edits) {
        const fresh = items.find((i) => i.key === edit.key);
        if (fresh) edit.revision = fresh.revision;
      }
    set({ items: next });
  };

  /** Send what waits; resolves when nothing is under way any more. */
  const send = (box = outbox): Promise<void> =>
    (box.sending ??= deliver(box).finally(() => {
      box.sending = null;
      // What came in just as the last answer did.
      if (box === outbox && box.waiting.length && !get().conflict && get().saving !== 'waiting') void send(box);
    }));

  const deliver = async (box: Outbox): Promise<void> => {
    // Another site may be opened meanwhile: then what was begun here goes on, but is not shown any more.
    const open = () => box === outbox;
    const wait = (trouble: string) => {
      keep(box);
      box.tries += 1;
      if (!open()) return;
      set({ saving: 'waiting', trouble });
      window.clearTimeout(nextTry);
      nextTry = window.setTimeout(() => open() && void send(box), pauseAfter(box.tries - 1));
    };
    while (box.waiting.length && !(open() && get().conflict)) {
      if (useSession.getState().ended) {
        if (open()) set({ saving: 'waiting' });
        return;
      }
      if (open()) set({ saving: 'saving' });
      const { id, ...body } = box.waiting[0];
      let answer;
      try {
        answer = await api.POST('/api/sites/{site_id}/changes', {
          params: { path: { site_id: box.id } },
          headers: once(id),
          body,
        });
      } catch (error) {
        return wait(sentence(error));
      }
      const { data, error, response } = answer;
      const stale = response.status === 409 && error && 'theirs' in error ? asItems(error.theirs) : null;
      let verdict = verdictOf(response.status, stale !== null, box.tries);
      if (verdict === 'token') {
        // Another page has signed in since: with its token this one goes on, once.
        const renewed = box.tries === 0 ? await renewToken().catch(() => null) : false;
        if (renewed === null) return wait(sentence(new TypeError()));
        if (renewed) {
          box.tries = 1;
          continue;
        }
        verdict = useSession.getState().ended ? 'sign in' : 'aside';
      }
      if (verdict === 'sign in') {
        endSession();
        keep(box);
        if (open()) set({ saving: 'waiting', trouble: '' });
        return;
      }
      if (verdict === 'later') return wait(sentence(error));
      if (verdict === 'stale') {
        if (!open()) return;
        // It stays in the outbox until it is settled.
        set({ conflict: { label: body.label, mine: body.edits, theirs: stale! } });
        break;
      }
      const [sent] = box.waiting.splice(0, 1);
      box.tries = 0;
      if (verdict === 'aside') box.aside.push({ ...sent, reason: sentence(error) });
      keep(box);
      if (!open()) continue;
      set({ aside: [...box.aside] });
      if (data) {
        take(asItems(data.items));
        set({ revision: data.revision, undo: data.undo, redo: data.redo, savedAt: data.saved, trouble: '' });
      } else if (verdict === 'refused') {
        set({ trouble: sentence(error) });
        await get()
          .load(box.id)
          .catch(() => undefined);
      }
    }
    if (open()) set({ saving: steps ? 'saving' : 'saved' });
  };

  let stepping: Promise<unknown> = Promise.resolve();
  /** How many steps are asked for and not yet answered: so long nothing is said to be saved. */
  let steps = 0;
  /** One step back or forward, after those that are under way; with `of`, back over the step of that number. */
  const step = (back: boolean, of?: number): Promise<boolean> => {
    steps += 1;
    if (get().saving === 'saved') set({ saving: 'saving' });
    const next = stepping
      .then(() => stepNow(back, of))
      .finally(() => {
        steps -= 1;
        if (!steps && get().saving === 'saving' && !outbox.waiting.length) set({ saving: 'saved' });
      });
    stepping = next.catch(() => undefined);
    return next;
  };

  const stepNow = async (back: boolean, of?: number): Promise<boolean> => {
    if (outbox.waiting.length || outbox.sending) await send();
    if (outbox.waiting.length && !get().conflict) {
      set({ notice: 'What you did last has not been sent yet; it can be taken back once it has.' });
      return false;
    }
    const same = unanswered && unanswered.back === back && unanswered.of === of;
    const { id } = (unanswered = same && unanswered ? unanswered : { back, of, id: named() });
    try {
      const asked = { params: { path: { site_id: get().id }, query: { of } }, headers: once(id) };
      const { data, error, response } = back
        ? await api.POST('/api/sites/{site_id}/undo', asked)
        : await api.POST('/api/sites/{site_id}/redo', { ...asked, params: { path: asked.params.path } });
      if (!passing({ status: response.status })) unanswered = null;
      if (!data && error && 'whose' in error) {
        set({ others: { ...error, back } });
        return false;
      }
      if (!data) {
        set({ trouble: sentence(error) });
        return false;
      }
      take(asItems(data.items));
      const selected = get().selected;
      set({
        revision: data.revision,
        undo: data.undo,
        redo: data.redo,
        savedAt: data.saved,
        drafts: {},
        others: null,
        notice: data.label
          ? `${back ? 'Undone' : 'Done again'}: ${data.label}`
          : `Nothing to ${back ? 'undo' : 'redo'}.`,
        selected: selected && get().items[selected] ? selected : null,
      });
      return true;
    } catch (error) {
      set({ trouble: sentence(error) });
      return false;
    }
  };

  return {
    id: '',
    name: '',
    role: 'viewer',
    revision: 0,
    items: {},
    drafts: {},
    undo: '',
    redo: '',
    saving: 'saved',
    aside: [],
    savedAt: '',
    trouble: '',
    notice: '',
    conflict: null,
    others: null,
    selected: null,

    async load(id) {
      const { data, error, response } = await api.GET('/api/sites/{site_id}', { params: { path: { site_id: id } } });
      if (response.status === 404) return false;
      if (!data) throw Object.assign(Object(error ?? {}) as object, { status: response.status });
      const items: Record<string, Item> = {};
      for (const item of asItems(data.items))
        items[item.key] = { key: item.key, revision: item.revision, plan: item.plan };
      const fresh = get().id !== id;
      set({
        id,
        name: data.name,
        role: data.role,
        revision: data.revision,
        items: withUnsent(items, id),
        drafts: {},
        undo: data.undo,
        redo: data.redo,
        savedAt: data.saved,
        ...(fresh ? { selected: null, trouble: '', notice: '', conflict: null, others: null } : {}),
      });
      if (fresh) {
        const here = (outbox = emptyOutbox(id));
        set({ aside: [], saving: 'saved' });
        const left = await leftBehind(id);
        here.waiting.unshift(...left.waiting);
        here.aside.unshift(...left.aside);
        keep(here);
        set({ aside: [...here.aside], items: withUnsent(get().items, id) });
        if (left.waiting.length) {
          set({ notice: `${left.waiting.length} changes made before the connection was lost are sent now.` });
          void send();
        }
      }
      return true;
    },

    commit(label, edits) {
      const { items, drafts } = get();
      const locked = edits.map(({ key, plan }) => lockedBy(items, key, plan)).find((name) => name !== null);
      if (locked !== undefined && locked !== null) return set({ notice: lockedSentence(locked), drafts: {} });
      const next = { ...items };
      const left = { ...drafts };
      const sent = edits.map(({ key, plan }) => ({ key, plan, revision: items[key]?.revision ?? 0 }));
      for (const { key, plan } of edits) {
        delete left[key];
        if (plan === null) delete next[key];
        else next[key] = { key, plan, revision: items[key]?.revision ?? 0 };
      }
      outbox.waiting.push({ id: named(), label, edits: sent });
      const selected = get().selected;
      set({ items: next, drafts: left, selected: selected && next[selected] ? selected : null });
      keep(outbox);
      // What waits for its next try waits on: else every edit would be one.
      if (get().saving !== 'waiting') void send();
    },

    draft(key, plan) {
      const locked = plan && lockedBy(get().items, key, plan);
      if (locked) return set({ notice: lockedSentence(locked) });
      const drafts = { ...get().drafts };
      if (plan === null) delete drafts[key];
      else drafts[key] = plan;
      set({ drafts });
    },

    stepBack: async () => void (await step(true)),
    stepForward: async () => void (await step(false)),
    async settleOthers(taken) {
      const others = get().others;
      set({ others: null });
      if (taken && others && (await step(true, others.number))) await step(others.back);
    },
    select: (selected) => set({ selected }),

    goOn() {
      outbox.tries = 0;
      set({ trouble: '' });
      void send();
    },

    settleAside(again) {
      const { items } = get();
      for (const { label, edits } of again ? outbox.aside : [])
        outbox.waiting.push({
          id: named(),
          label,
          edits: edits.map((e) => ({ ...e, revision: items[e.key]?.revision ?? 0 })),
        });
      outbox.aside = [];
      keep(outbox);
      set({ aside: [] });
      if (again) void send();
      else
        void get()
          .load(outbox.id)
          .catch(() => undefined);
    },

    settle(taken) {
      const conflict = get().conflict;
      if (!conflict) return;
      // Mine goes out once more, now against the state it was shown beside; what never was there is made anew.
      if (taken === 'theirs') outbox.waiting.shift();
      else if (outbox.waiting[0]) {
        outbox.waiting[0].id = named();
        for (const edit of outbox.waiting[0].edits) if (edit.revision && !get().items[edit.key]) edit.revision = 0;
      }
      keep(outbox);
      take(conflict.theirs);
      set({ conflict: null });
      void send();
    },

    say: (notice) => set({ notice }),
    clearTrouble: () => set({ trouble: '', notice: '' }),
  };
});

/** The plan of an item as it is being edited right now. */
export function usePlan<K extends Kind>(key: string | null, kind: K): PlanOf<K> | null {
  return useSite((s) => {
    const plan = key ? (s.drafts[key] ?? s.items[key]?.plan) : null;
    return plan && plan.kind === kind ? (plan as PlanOf<K>) : null;
  });
}

/** All items of a kind, in the order the course lists them. */
export function itemsOf<K extends Kind>(items: Record<string, Item>, kind: K): Item<PlanOf<K>>[] {
  return Object.values(items).filter((i) => i.plan.kind === kind) as unknown as Item<PlanOf<K>>[];
}

export const newKey = (kind: Kind) => `${kind}-${crypto.randomUUID().replaceAll('-', '').slice(0, 12)}`;
