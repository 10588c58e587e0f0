import { useEffect, useRef } from 'react';
import { fetchBytes, type Asset } from '../api/client';
import { unpack } from '../api/packet';

const kept = new Map<string, Promise<{ position: Float32Array; index: Uint32Array }>>();

function coarse(asset: Asset) {
  const url = asset.lods[Math.min(1, asset.lods.length - 1)];
  let found = kept.get(url);
  if (!found) {
    found = fetchBytes(url).then((data) => {
      const { arrays } = unpack(data);
      return { position: arrays.position as Float32Array, index: arrays.index as Uint32Array };
    });
    kept.set(url, found);
  }
  return found;
}

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
      context.beginPath();
      for (let k = 0; k < index.length; k += 3) {
        for (let c = 0; c < 3; c++) {
          const v = index[k + c] * 3;
          const x = pixels / 2 + position[v] * scale;
          const y = pixels - 2 - position[v + 1] * scale;
          if (c === 0) context.moveTo(x, y);
          else context.lineTo(x, y);
        }
        context.closePath();
      }
      context.fill();
    }).catch(() => undefined);
    return () => {
      stale = true;
    };
  }, [asset, size, metres]);
  return <canvas ref={canvas} aria-hidden style={{ width: size, height: size, display: 'block' }} />;
}
