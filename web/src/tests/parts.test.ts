import { beforeEach, describe, expect, test, vi } from 'vitest';

const asked: string[] = [];
let answers: Record<string, { status: number; data: Uint8Array }>;
let broken = false;

/** The server's many-in-one answer: status, length, bytes of each. */
function together(urls: string[]): ArrayBuffer {
  const parts = urls.map(
    (url) => answers[url] ?? { status: 404, data: new TextEncoder().encode('{"detail": "There is no such thing."}') },
  );
  const out = new Uint8Array(parts.reduce((sum, p) => sum + 8 + p.data.length, 0));
  const view = new DataView(out.buffer);
  let at = 0;
  for (const { status, data } of parts) {
    view.setUint32(at, status, true);
    view.setUint32(at + 4, data.length, true);
    out.set(data, at + 8);
    at += 8 + data.length;
  }
  return out.buffer;
}

let fetchPart: (typeof import('../api/parts'))['fetchPart'];

beforeEach(async () => {
  vi.resetModules();
  asked.length = 0;
  broken = false;
  answers = Object.fromEntries(
    Array.from({ length: 40 }, (_, n) => [`/part/${n}?v=1&x=${n}`, { status: 200, data: new Uint8Array([n, n + 1]) }]),
  );
  vi.stubGlobal('window', globalThis);
  vi.stubGlobal('fetch', async (url: string) => {
    asked.push(url);
    if (broken) throw new TypeError('fetch failed');
    const urls = new URL(url, 'http://here').searchParams.getAll('of');
    const body = urls.length ? together(urls) : (answers[url]?.data.slice().buffer ?? null);
    return new Response(body, { status: urls.length ? 200 : (answers[url]?.status ?? 404) });
  });
  ({ fetchPart } = await import('../api/parts'));
});

const all = Object.freeze(Array.from({ length: 40 }, (_, n) => `/part/${n}?v=1&x=${n}`));

describe('many small things', () => {
  test('travel together, each to who asked for it', async () => {
    const found = await Promise.all(all.map((url) => fetchPart(url)));
    expect(found.map((data) => [...new Uint8Array(data)])).toEqual(all.map((_, n) => [n, n + 1]));
    expect(asked).toHaveLength(3);
  });

  test('one alone keeps its own address, so that it is cached under it', async () => {
    expect([...new Uint8Array(await fetchPart(all[3]))]).toEqual([3, 4]);
    expect(asked).toEqual([all[3]]);
  });

  test('the same thing for several askers is fetched once, and each has bytes of its own', async () => {
    const [one, other, another] = await Promise.all([fetchPart(all[5]), fetchPart(all[6]), fetchPart(all[5])]);
    expect([one, other, another].map((data) => [...new Uint8Array(data)])).toEqual([
      [5, 6],
      [6, 7],
      [5, 6],
    ]);
    expect(one).not.toBe(another);
    expect(asked.join().match(/part%2F5%3F/g)).toHaveLength(1);
  });

  test('what is too much to travel with the others is asked for alone', async () => {
    let times = 0;
    const { data } = answers[all[2]];
    answers[all[2]] = {
      get status() {
        times += 1;
        return times === 1 ? 413 : 200;
      },
      data,
    };
    const found = await Promise.all([fetchPart(all[1]), fetchPart(all[2])]);
    expect(found.map((part) => [...new Uint8Array(part)])).toEqual([
      [1, 2],
      [2, 3],
    ]);
    expect(asked[1]).toBe(all[2]);
  });

  test('one that is refused takes no other with it, and says why', async () => {
    const [good, bad, other] = await Promise.allSettled([fetchPart(all[0]), fetchPart('/nowhere'), fetchPart(all[1])]);
    expect([good.status, bad.status, other.status]).toEqual(['fulfilled', 'rejected', 'fulfilled']);
    expect((bad as PromiseRejectedResult).reason).toEqual({ detail: 'There is no such thing.' });
  });

  test('a lost connection is tried again a few times, then fails all of them; the next ask tries anew', async () => {
    vi.useFakeTimers();
    broken = true;
    const asking = Promise.allSettled([fetchPart(all[0]), fetchPart(all[1])]);
    await vi.advanceTimersByTimeAsync(10_000);
    const lost = await asking;
    vi.useRealTimers();
    expect(asked).toHaveLength(4);
    expect(lost.map((r) => r.status)).toEqual(['rejected', 'rejected']);
    broken = false;
    expect([...new Uint8Array(await fetchPart(all[0]))]).toEqual([0, 1]);
  });

  test('an answer that did not arrive is asked for again past the cache', async () => {
    const how: (RequestCache | undefined)[] = [];
    const real = fetch;
    vi.stubGlobal('fetch', async (url: string, init?: RequestInit) => {
      how.push(init?.cache);
      if (how.length === 1) throw new TypeError('cache write failure');
      return real(url);
    });
    expect([...new Uint8Array(await fetchPart(all[5]))]).toEqual([5, 6]);
    expect(how).toEqual([undefined, 'no-store']);
  });

  test('one the server has no time for just now is asked for by itself', async () => {
    const good = answers[all[1]];
    answers[all[1]] = { status: 503, data: new TextEncoder().encode('{"detail": "Busy."}') };
    const asking = Promise.all([fetchPart(all[0]), fetchPart(all[1])]);
    await new Promise((over) => setTimeout(over, 20));
    answers[all[1]] = good;
    expect((await asking).map((data) => new Uint8Array(data)[0])).toEqual([0, 1]);
  });
});
