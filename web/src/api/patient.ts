/** Pauses before a request that got no answer is sent again, milliseconds. */
const PAUSES = [300, 1000, 2500];
/** Answers that say: later it may go well. */
const LATER = [408, 429, 502, 503, 504];
/** Posts that only ask; those with an id of their own are done once however often they are sent. */
const ASKING = /\/(preview|histograms|why|section|values|recipe)$/;
export const ONCE = 'Idempotency-Key';

export const later = (status: number) => LATER.includes(status);
export const pause = (ms: number) => new Promise<void>((over) => window.setTimeout(over, ms));

/** What a request that gets no answer, or is told to come back, is done with: sent again a few times, past the cache. */
export async function patiently(send: (cache?: RequestCache) => Promise<Response>): Promise<Response> {
  for (const wait of PAUSES) {
    try {
      const answer = await send(wait === PAUSES[0] ? undefined : 'no-store');
      if (!later(answer.status)) return answer;
    } catch (error) {
      // Whoever asked has given it up.
      if (error instanceof DOMException && error.name === 'AbortError') throw error;
    }
    await pause(wait);
  }
  return send('no-store');
}

/** Fetch with patience where sending again does nothing twice. */
export async function patientFetch(request: Request): Promise<Response> {
  const harmless = request.method === 'GET' || request.headers.has(ONCE) || ASKING.test(new URL(request.url).pathname);
  // Edits have an outbox, which says that they wait.
  if (!harmless || request.url.endsWith('/changes')) return fetch(request);
  const { url, method, headers, credentials, signal } = request;
  // Read once, for a body that is sent cannot be sent again.
  const body = method === 'GET' ? undefined : await request.text();
  return patiently((cache) => fetch(new Request(url, { method, headers, body, credentials, signal, cache })));
}
