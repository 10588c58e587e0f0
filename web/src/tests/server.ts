import type { ItemPlan } from '../api/client';

type Answer = { data?: unknown; error?: unknown; response: { status: number } };

/** A stand-in for the server's side: sites with items, each with a revision that every write must name. */
export class Server {
  sites: Record<string, Record<string, { revision: number; plan: ItemPlan | null }>> = { a: {}, b: {} };
  log: { site: string; label: string }[] = [];
  undone: string[] = [];
  down = false;
  /** Done, but the answer does not arrive. */
  deaf = false;
  /** What is answered in place of doing anything. */
  instead: number | null = null;
  answered = new Map<string, Answer>();
  /** Answers wait here until they are let go. */
  hold: (() => void)[] | null = null;

  async answer<T>(make: () => T): Promise<T> {
    if (this.hold) await new Promise<void>((go) => this.hold!.push(go));
    if (this.down) throw new TypeError('fetch failed');
    return make();
  }

  private state = (id: string) =>
    Object.entries(this.sites[id]).map(([key, item]) => ({
      key,
      revision: item.revision,
      plan: item.plan,
      deleted: item.plan === null,
    }));

  /** Done once by its id, however often it is sent. */
  once(headers: Record<string, string>, make: () => Answer): Answer {
    if (this.instead) return { error: { detail: `status ${this.instead}` }, response: { status: this.instead } };
    const id = headers['Idempotency-Key'];
    const known = this.answered.get(id) ?? make();
    if (known.response.status < 300 || known.response.status === 409) this.answered.set(id, known);
    if (this.deaf) throw new TypeError('lost on the way');
    return structuredClone(known);
  }

  get(id: string) {
    return this.answer(() => ({
      response: { status: 200 },
      data: {
        name: id,
        role: 'owner',
        revision: 1,
        items: this.state(id).filter((i) => !i.deleted),
        undo: '',
        redo: '',
        saved: '',
      },
    }));
  }

  change(
    id: string,
    headers: Record<string, string>,
    body: { label: string; edits: { key: string; revision: number; plan: ItemPlan | null }[] },
  ) {
    return this.answer(() =>
      this.once(headers, () => {
        const stale = body.edits.filter((e) => (this.sites[id][e.key]?.revision ?? 0) !== e.revision);
        if (stale.length)
          return {
            error: { detail: 'stale', theirs: this.state(id).filter((i) => stale.some((e) => e.key === i.key)) },
            response: { status: 409 },
          };
        if (body.label === 'absurd') return { error: { detail: 'Density is at most 200.' }, response: { status: 422 } };
        for (const e of body.edits) this.sites[id][e.key] = { revision: e.revision + 1, plan: e.plan };
        this.log.push({ site: id, label: body.label });
        const items = this.state(id).filter((i) => body.edits.some((e) => e.key === i.key));
        return {
          data: { revision: this.log.length, items, undo: body.label, redo: '', saved: '12:00' },
          response: { status: 200 },
        };
      }),
    );
  }

  undo(id: string, headers: Record<string, string>) {
    return this.answer(() =>
      this.once(headers, () => {
        const last = this.log.filter((entry) => entry.site === id).at(-1);
        this.undone.push(last?.label ?? '');
        return {
          data: { revision: 9, items: [], undo: '', redo: '', saved: '', label: last?.label ?? '' },
          response: { status: 200 },
        };
      }),
    );
  }
}
