import { create } from 'zustand';
import { lockedBy, lockedSentence } from './locks';
import { api, asItems, sentence, type ItemOut, type ItemPlan, type Kind, type PlanOf } from '../api/client';

export interface Item<P = ItemPlan> {
  key: string;
  revision: number;
  plan: P;
}

export interface Edit {
  key: string;
  plan: ItemPlan | null;
}

interface Pending {
  label: string;
  edits: { key: string; revision: number; plan: ItemPlan | null }[];
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
  settle: (take: 'mine' | 'theirs') => void;
  /** Take back what somebody else did since, then one's own step; or let both be. */
  settleOthers: (take: boolean) => Promise<void>;
  say: (notice: string) => void;
  clearTrouble: () => void;
}

/** What of a site's edits has not arrived yet, in order. The first may be on its way, or wait for a conflict to be settled. */
interface Outbox {
  id: string;
  waiting: Pending[];
  sending: Promise<void> | null;
}

const kept = (id: string) => `cenote.unsent.${id}`;
const RETRY = 2000;
/** Of the open site. */
let outbox: Outbox = { id: '', waiting: [], sending: null };

/** Leave what has not arrived where the next visit finds it. */
function keep({ id, waiting }: Outbox) {
  try {
    if (waiting.length) localStorage.setItem(kept(id), JSON.stringify(waiting));
    else localStorage.removeItem(kept(id));
  } catch {
    /* A full or forbidden store only means that closing the page loses what was not yet sent. */
  }
}

function unsent(id: string): Pending[] {
  try {
    return JSON.parse(localStorage.getItem(kept(id)) ?? '[]');
  } catch {
    return [];
  }
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

  const deliver = async (box: Outbox) => {
    // Another site may be opened meanwhile: then what was begun here goes on, but is not shown any more.
    const open = () => box === outbox;
    while (box.waiting.length && !(open() && get().conflict)) {
      if (open()) set({ saving: 'saving' });
      const pending = box.waiting[0];
      try {
        const { data, error, response } = await api.POST('/api/sites/{site_id}/changes', {
          params: { path: { site_id: box.id } },
          body: pending,
        });
        if (response.status >= 500) throw error;
        const stale = response.status === 409 && error && 'theirs' in error;
        if (stale && !open()) return;
        if (stale) {
          // It stays in the outbox until it is settled.
          set({ conflict: { label: pending.label, mine: pending.edits, theirs: asItems(error.theirs) } });
          break;
        }
        box.waiting.shift();
        keep(box);
        if (data && open()) {
          take(asItems(data.items));
          set({ revision: data.revision, undo: data.undo, redo: data.redo, savedAt: data.saved, trouble: '' });
        } else if (!data && open()) {
          set({ trouble: sentence(error) });
          await get().load(box.id);
        }
      } catch (error) {
        keep(box);
        if (!open()) return;
        set({ saving: 'waiting', trouble: sentence(error) });
        window.setTimeout(() => open() && void send(box), RETRY);
        return;
      }
    }
    if (open()) set({ saving: 'saved' });
  };

  /** One step back or forward; with `of`, back over the step of that number, whoever made it. */
  const step = async (back: boolean, of?: number): Promise<boolean> => {
    await send();
    try {
      const path = { path: { site_id: get().id } };
      const { data, error } = back
        ? await api.POST('/api/sites/{site_id}/undo', { params: { ...path, query: { of } } })
        : await api.POST('/api/sites/{site_id}/redo', { params: path });
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
    savedAt: '',
    trouble: '',
    notice: '',
    conflict: null,
    others: null,
    selected: null,

    async load(id) {
      const { data } = await api.GET('/api/sites/{site_id}', { params: { path: { site_id: id } } });
      if (!data) return false;
      const items: Record<string, Item> = {};
      for (const item of asItems(data.items))
        items[item.key] = { key: item.key, revision: item.revision, plan: item.plan };
      const fresh = get().id !== id;
      set({
        id,
        name: data.name,
        role: data.role,
        revision: data.revision,
        items,
        drafts: {},
        undo: data.undo,
        redo: data.redo,
        savedAt: data.saved,
        ...(fresh ? { selected: null, trouble: '', notice: '', conflict: null, others: null } : {}),
      });
      if (fresh) {
        outbox = { id, waiting: unsent(id), sending: null };
        if (outbox.waiting.length) {
          set({ notice: `${outbox.waiting.length} changes made before the connection was lost are sent now.` });
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
      outbox.waiting.push({ label, edits: sent });
      const selected = get().selected;
      set({ items: next, drafts: left, selected: selected && next[selected] ? selected : null });
      keep(outbox);
      void send();
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

    settle(taken) {
      const conflict = get().conflict;
      if (!conflict) return;
      // Mine goes out once more, now against the state it was shown beside; what never was there is made anew.
      if (taken === 'theirs') outbox.waiting.shift();
      else
        for (const edit of outbox.waiting[0]?.edits ?? [])
          if (edit.revision && !get().items[edit.key]) edit.revision = 0;
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
