import { useEffect, useState } from 'react';
import type { Asset } from '../api/client';
import { useBench } from '../state/bench';
import { silhouettePicture } from './silhouette';

/** The silhouette of an asset, seen from the side, in the colour of the text around it. */
export function AssetPicture({ asset, size, metres }: { asset: Asset; size: number; metres?: number }) {
  const [picture, setPicture] = useState('');
  // The plate first: what its opening waits for must not wait for these.
  const ready = useBench((now) => now.ready);
  useEffect(() => {
    if (!ready) return;
    let stale = false;
    silhouettePicture(asset, size * 2, metres ?? Math.max(asset.size[0], asset.size[1], 0.01) * 1.06)
      .then((made) => stale || setPicture(made))
      .catch(() => undefined);
    return () => {
      stale = true;
    };
  }, [asset, size, metres, ready]);
  // A stencil rather than a canvas: each canvas is a layer of its own for the browser to lay over the page in every frame.
  const mask = picture ? `url(${picture}) 0 0 / 100% 100%` : 'linear-gradient(transparent, transparent)';
  return (
    <span
      aria-hidden
      data-silhouette={picture !== ''}
      style={{ width: size, height: size, display: 'block', background: 'currentColor', mask }}
    />
  );
}
