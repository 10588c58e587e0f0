import { useEffect } from 'react';
import { writeHeaders } from '../api/client';
import { useJobs } from '../state/derived';
import { useSite } from '../state/site';

const WIDTH = 640,
  HEIGHT = 400;
const QUALITY = 0.82;
/** Milliseconds between two looks whether the plate has come to rest with something new. */
const LOOKS_EVERY = 15_000;

/** Keep what the plate shows for the site's card, as long as there is no proof of the site. */
export function useLastPicture() {
  const id = useSite((s) => s.id);
  const looksOnly = useSite((s) => s.role === 'viewer');
  const proved = useJobs().some((job) => job.kind === 'proof' && job.state === 'done');
  useEffect(() => {
    if (!id || looksOnly || proved) return;
    let sent: string | undefined;
    const looking = window.setInterval(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('canvas[data-settled="true"]');
      // Whatever has come in or was changed since has been drawn again.
      if (!canvas?.width || canvas.dataset.frames === sent) return;
      sent = canvas.dataset.frames;
      void send(id, canvas);
    }, LOOKS_EVERY);
    return () => window.clearInterval(looking);
  }, [id, looksOnly, proved]);
}

async function send(id: string, canvas: HTMLCanvasElement) {
  const body = await new Promise<Blob | null>((take) => small(canvas).toBlob(take, 'image/webp', QUALITY));
  if (!body) return;
  // It is only a picture on a card: where it does not arrive the next one will do.
  await fetch(`/api/sites/${id}/picture`, { method: 'PUT', body, headers: writeHeaders() }).catch(() => undefined);
}

/** The middle of a picture in the card's size. */
function small(canvas: HTMLCanvasElement): HTMLCanvasElement {
  const out = document.createElement('canvas');
  out.width = WIDTH;
  out.height = HEIGHT;
  const scale = Math.max(WIDTH / canvas.width, HEIGHT / canvas.height);
  const [width, height] = [canvas.width * scale, canvas.height * scale];
  out.getContext('2d')?.drawImage(canvas, (WIDTH - width) / 2, (HEIGHT - height) / 2, width, height);
  return out;
}
