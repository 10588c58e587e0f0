import { fetchBytes } from './client';
import { later } from './patient';

/** So many small things are asked for at once; more would make the first of them wait for the last. */
const A_TIME = 16;
/** Said of a part that is too much to travel with the others. */
const TOO_MUCH = 413;

interface Asked {
  url: string;
  take: (data: ArrayBuffer) => void;
  fail: (error: unknown) => void;
}

let asked: Asked[] = [];

/**
 * Fetch one of many small things. What is asked for in the same moment travels together: every answer of its own would
 * cost more than most of them hold.
 */
export function fetchPart(url: string): Promise<ArrayBuffer> {
  return new Promise((take, fail) => {
    if (!asked.length) window.setTimeout(send, 0);
    asked.push({ url, take, fail });
  });
}

function send() {
  const all = asked;
  asked = [];
  // Of the same thing for several askers one is fetched.
  const each = [...new Map(all.map((one) => [one.url, shared(all.filter((other) => other.url === one.url))])).values()];
  for (let start = 0; start < each.length; start += A_TIME) void together(each.slice(start, start + A_TIME));
}

/** All who ask for the same as one; each gets bytes of its own. */
function shared(same: Asked[]): Asked {
  return {
    url: same[0].url,
    take: (data) => same.forEach((one, k) => one.take(k ? data.slice(0) : data)),
    fail: (error) => same.forEach((one) => one.fail(error)),
  };
}

async function together(some: Asked[]) {
  try {
    if (some.length === 1) return void alone(some[0]);
    const query = some.map((one) => `of=${encodeURIComponent(one.url)}`).join('&');
    const data = await fetchBytes(`/api/parts?${query}`);
    const view = new DataView(data);
    let at = 0;
    for (const one of some) {
      const status = view.getUint32(at, true),
        length = view.getUint32(at + 4, true);
      const part = data.slice(at + 8, at + 8 + length);
      at += 8 + length;
      if (status === 200) one.take(part);
      // Asked for by itself, it is asked for with patience.
      else if (later(status) || status === TOO_MUCH) void alone(one);
      else one.fail(reasonIn(part, status));
    }
  } catch (error) {
    some.forEach((one) => one.fail(error));
  }
}

async function alone({ url, take, fail }: Asked) {
  try {
    take(await fetchBytes(url));
  } catch (error) {
    fail(error);
  }
}

function reasonIn(part: ArrayBuffer, status: number): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(part));
  } catch {
    return new TypeError(`status ${status}`);
  }
}
