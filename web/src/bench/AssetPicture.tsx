import { useEffect, useRef } from 'react';
import type { Asset } from '../api/client';
import { coarse, fillSilhouette } from './silhouette';

/** The silhouette of an asset, seen from the side, in the colour of the text around it. */
export function AssetPicture({ asset, size, metres }: { asset: Asset; size: number; metres?: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let stale = false;
    coarse(asset).then(({ position, index }) => {
      const context = canvas.current?.getContext('2d');
      if (!context || stale || !canvas.current) return;
      const span = metres ?? Math.max(asset.size[0], asset.size[1], 0.01) * 1.06;
      const pixels = size * 2;
      canvas.current.width = canvas.current.height = pixels;
      const scale = pixels / span;
      context.fillStyle = getComputedStyle(canvas.current).color;
      fillSilhouette(context, index, (v) => pixels / 2 + position[v * 3] * scale, (v) => pixels - 2 - position[v * 3 + 1] * scale);
    }).catch(() => undefined);
    return () => {
      stale = true;
    };
  }, [asset, size, metres]);
  return <canvas ref={canvas} aria-hidden style={{ width: size, height: size, display: 'block' }} />;
}
