import { beforeEach, describe, expect, test, vi } from 'vitest';
import { fresh } from '../api/defaults';
import { Server } from './server';

const { POST, GET, renewToken } = vi.hoisted(() => ({ POST: vi.fn(), GET: vi.fn(), renewToken: vi.fn() }));
vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: { POST, GET, use: () => undefined },
  renewToken,
}));

const drift = (density: number) => fresh('drift', { name: 'fern', density });
const store = new Map<string, string>();
let server: Server;
let useSite: (typeof import('../state/site'))['useSite'];

const unsent = (id: string) =>
  [...store].flatMap(([key, value]) =>
    key.startsWith(`cenote.unsent.${id}.ada.`) ? (JSON.parse(value).waiting as { label: string }[]) : [],
  );
const rest = async () => {
  for (let k = 0; k < 40; k++) await Promise.resolve();
  await vi.advanceTimersByTimeAsync(1);
};

beforeEach(async () => {
  vi.useFakeTimers();
  vi.resetModules();
  store.clear();
  vi.stubGlobal('window', globalThis);
  // Pages that cannot tell one another whether they live.
  vi.stubGlobal('navigator', {});
  vi.stubGlobal('localStorage', {
    get length() {
      return store.size;
    },
    key: (k: number) => [...store.keys()][k],
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => store.set(k, v),
    removeItem: (k: string) => store.delete(k),
  });
  server = new Server();
  POST.mockImplementation(
    (
      path: string,
      { params, headers, body }: { params: { path: { site_id: string } }; headers: never; body: never },
    ) =>
      path.endsWith('changes')
        ? server.change(params.path.site_id, headers, structuredClone(body))
        : server.undo(params.path.site_id, headers),
  );
  renewToken.mockReset();
  GET.mockImplementation((_: string, { params }: { params: { path: { site_id: string } } }) =>
    server.get(params.path.site_id),
  );
  await openPage();
});

/** A page that ada opens on site a. */
async function openPage() {
  vi.resetModules();
  const { useSession } = await import('../api/session');
  useSession.setState({ user: 'ada', ended: false });
  ({ useSite } = await import('../state/site'));
  await useSite.getState().load('a');
  await rest();
  return useSession;
}

describe('edits on their way', () => {
  test('show at once and arrive in order', async () => {
    const { commit } = useSite.getState();
    commit('one', [{ key: 'd', plan: drift(1) }]);
    commit('two', [{ key: 'd', plan: drift(2) }]);
    expect(useSite.getState().items.d.plan).toMatchObject({ density: 2 });
    await rest();
    expect(server.log.map((e) => e.label)).toEqual(['one', 'two']);
    expect(useSite.getState()).toMatchObject({ saving: 'saved', trouble: '', conflict: null });
    expect(unsent('a')).toEqual([]);
  });

  test('wait for a lost connection and go out when it is back', async () => {
    server.down = true;
    useSite.getState().commit('one', [{ key: 'd', plan: drift(1) }]);
    useSite.getState().commit('two', [{ key: 'd', plan: drift(2) }]);
    await rest();
    expect(useSite.getState().saving).toBe('waiting');
    expect(useSite.getState().trouble).toContain('kept here');
    expect(unsent('a').map((p) => p.label)).toEqual(['one', 'two']);
    server.down = false;
    await vi.advanceTimersByTimeAsync(2500);
    expect(server.log.map((e) => e.label)).toEqual(['one', 'two']);
    expect(useSite.getState()).toMatchObject({ saving: 'saved', trouble: '' });
  });

  test('are sent by the next visit when the page was closed before', async () => {
    server.down = true;
    useSite.getState().commit('one', [{ key: 'd', plan: drift(1) }]);
    await rest();
    server.down = false;
    await openPage();
    expect(server.log.map((e) => e.label)).toEqual(['one']);
    expect(useSite.getState().items.d.plan).toMatchObject({ density: 1 });
  });

  test('that are refused say why and the server’s state is shown again', async () => {
    useSite.getState().commit('good', [{ key: 'd', plan: drift(1) }]);
    await rest();
    useSite.getState().commit('absurd', [{ key: 'd', plan: drift(2) }]);
    await rest();
    expect(useSite.getState().trouble).toBe('Density is at most 200.');
    expect(useSite.getState().items.d.plan).toMatchObject({ density: 1 });
    expect(unsent('a')).toEqual([]);
  });

  test('a full store does not stop them', async () => {
    vi.stubGlobal('localStorage', {
      length: 0,
      getItem: () => null,
      setItem: () => {
        throw new Error('quota');
      },
      removeItem: () => {
        throw new Error('forbidden');
      },
    });
    useSite.getState().commit('one', [{ key: 'd', plan: drift(1) }]);
    await rest();
    expect(server.log).toHaveLength(1);
  });
});

describe('another site is opened meanwhile', () => {
  test('what is on its way arrives at its own site and the other one’s work stays whole', async () => {
    server.hold = [];
    useSite.getState().commit('on a', [{ key: 'd', plan: drift(1) }]);
    useSite.getState().commit('on a, later', [{ key: 'd', plan: drift(2) }]);
    await rest();
    const [change] = server.hold;
    server.hold = null;
    await useSite.getState().load('b');
    server.hold = [];
    useSite.getState().commit('on b', [{ key: 'e', plan: drift(5) }]);
    change();
    await rest();
    // The later edit of a names a revision of before the first had arrived; it is kept for the next visit, not dropped.
    server.hold?.splice(0).forEach((go) => go());
    server.hold = null;
    await rest();
    expect(server.log).toContainEqual({ site: 'a', label: 'on a' });
    expect(server.log).toContainEqual({ site: 'b', label: 'on b' });
    expect(Object.keys(useSite.getState().items)).toEqual(['e']);
    expect(unsent('b')).toEqual([]);
    await useSite.getState().load('a');
    await rest();
    const arrived = server.log.filter((e) => e.site === 'a').map((e) => e.label);
    const waiting = useSite.getState().conflict?.label;
    expect([...arrived, waiting]).toContain('on a, later');
  });
});

describe('two people on one item', () => {
  const byAnother = async () => {
    useSite.getState().commit('first', [{ key: 'd', plan: drift(1) }]);
    await rest();
    server.sites.a.d = { revision: 7, plan: drift(70) };
    useSite.getState().commit('mine', [{ key: 'd', plan: drift(2) }]);
    await rest();
  };

  test('both versions are offered and neither is lost', async () => {
    await byAnother();
    expect(useSite.getState().conflict).toMatchObject({
      label: 'mine',
      theirs: [{ revision: 7, plan: { density: 70 } }],
    });
    expect(unsent('a').map((p) => p.label)).toEqual(['mine']);
  });

  test('mine goes out over theirs', async () => {
    await byAnother();
    useSite.getState().settle('mine');
    await rest();
    expect(server.sites.a.d).toMatchObject({ revision: 8, plan: { density: 2 } });
    expect(useSite.getState()).toMatchObject({ conflict: null, saving: 'saved' });
    expect(unsent('a')).toEqual([]);
  });

  test('theirs is kept and what was done after mine still arrives', async () => {
    await byAnother();
    useSite.getState().commit('elsewhere', [{ key: 'x', plan: drift(3) }]);
    useSite.getState().settle('theirs');
    await rest();
    expect(useSite.getState().items.d.plan).toMatchObject({ density: 70 });
    expect(server.sites.a.d.revision).toBe(7);
    expect(server.log.map((e) => e.label)).toEqual(['first', 'elsewhere']);
  });

  test('a conflict is still there after the page was closed on it', async () => {
    await byAnother();
    await openPage();
    expect(useSite.getState().conflict?.label).toBe('mine');
  });
});

describe('undo', () => {
  test('takes back the last edit even while it is on its way', async () => {
    useSite.getState().commit('first', [{ key: 'd', plan: drift(1) }]);
    await rest();
    server.hold = [];
    useSite.getState().commit('second', [{ key: 'd', plan: drift(2) }]);
    const undone = useSite.getState().stepBack();
    await rest();
    for (let k = 0; k < 4; k++) {
      server.hold.splice(0).forEach((go) => go());
      await rest();
    }
    await undone;
    expect(server.undone).toEqual(['second']);
    expect(useSite.getState().notice).toBe('Undone: second');
  });

  test('says so when there is nothing to take back', async () => {
    await useSite.getState().stepBack();
    expect(useSite.getState().notice).toBe('Nothing to undo.');
  });
});

describe('what the server does not take stays here', () => {
  const edit = async (density = 1) => {
    useSite.getState().commit('density', [{ key: 'd', plan: drift(density) }]);
    await rest();
  };

  test.each([429, 502, 503, 504, 507])('at %i it is sent again', async (status) => {
    server.instead = status;
    await edit();
    expect(useSite.getState().saving).toBe('waiting');
    expect(unsent('a')).toHaveLength(1);
    server.instead = null;
    await vi.advanceTimersByTimeAsync(2500);
    expect(server.sites.a.d.plan).toMatchObject({ density: 1 });
    expect(useSite.getState()).toMatchObject({ saving: 'saved', trouble: '' });
  });

  test('signed out, it waits for signing in again and then goes out', async () => {
    const session = await openPage();
    server.instead = 401;
    await edit();
    await edit(2);
    expect(session.getState().ended).toBe(true);
    expect(useSite.getState().saving).toBe('waiting');
    await vi.advanceTimersByTimeAsync(60_000);
    expect(unsent('a')).toHaveLength(2);
    server.instead = null;
    session.setState({ ended: false });
    useSite.getState().goOn();
    await rest();
    expect(server.sites.a.d.plan).toMatchObject({ density: 2 });
    expect(unsent('a')).toEqual([]);
  });

  test('with the token of before another page signed in, it goes out with the new one', async () => {
    server.instead = 403;
    renewToken.mockImplementation(async () => {
      server.instead = null;
      return true;
    });
    await edit();
    expect(server.sites.a.d.plan).toMatchObject({ density: 1 });
    expect(useSite.getState().saving).toBe('saved');
  });

  test.each([500, 403])('always answered %i, it is set aside by name and the next ones go out', async (status) => {
    renewToken.mockResolvedValue(true);
    server.instead = status;
    await edit();
    await vi.advanceTimersByTimeAsync(10_000);
    expect(useSite.getState().aside).toMatchObject([{ label: 'density', reason: `status ${status}` }]);
    expect(useSite.getState().items.d.plan).toMatchObject({ density: 1 });
    server.instead = null;
    useSite.getState().commit('other', [{ key: 'e', plan: drift(5) }]);
    await rest();
    expect(server.log.map((e) => e.label)).toEqual(['other']);
    // It is still there after the page was closed, and may be sent again.
    await openPage();
    expect(useSite.getState().aside).toMatchObject([{ label: 'density' }]);
    useSite.getState().settleAside(true);
    await rest();
    expect(server.sites.a.d.plan).toMatchObject({ density: 1 });
    expect(useSite.getState().aside).toEqual([]);
  });
});

describe('an answer that is lost', () => {
  test('is asked for again, and meets no conflict with itself', async () => {
    server.deaf = true;
    useSite.getState().commit('new', [{ key: 'd', plan: drift(1) }]);
    await rest();
    expect(server.log).toHaveLength(1);
    server.deaf = false;
    await vi.advanceTimersByTimeAsync(2500);
    expect(server.log).toHaveLength(1);
    expect(useSite.getState()).toMatchObject({ saving: 'saved', conflict: null });
    expect(useSite.getState().items.d.revision).toBe(1);
  });

  test('of an undo does not make the next one go back two steps', async () => {
    useSite.getState().commit('new', [{ key: 'd', plan: drift(1) }]);
    await rest();
    server.deaf = true;
    await useSite.getState().stepBack();
    server.deaf = false;
    await useSite.getState().stepBack();
    expect(server.undone).toEqual(['new']);
    await useSite.getState().stepBack();
    expect(server.undone).toHaveLength(2);
  });

  test('undo pressed twice before the first is answered goes back twice', async () => {
    for (const density of [1, 2]) {
      useSite.getState().commit(`density ${density}`, [{ key: 'd', plan: drift(density) }]);
      await rest();
    }
    const both = Promise.all([useSite.getState().stepBack(), useSite.getState().stepBack()]);
    expect(useSite.getState().saving).toBe('saving');
    await both;
    expect(server.undone).toHaveLength(2);
    expect(useSite.getState().saving).toBe('saved');
  });

  test('two pages keep their own, and one takes over what the other left', async () => {
    server.down = true;
    useSite.getState().commit('first page', [{ key: 'd', plan: drift(1) }]);
    await rest();
    await openPage().catch(() => undefined);
    server.down = false;
    await openPage();
    expect(server.log.map((e) => e.label)).toEqual(['first page']);
    expect(unsent('a')).toEqual([]);
  });
});
