import type { CSSProperties } from 'react';
import { useManifest } from '../state/derived';

const tinted = {
  width: '100%',
  height: '100%',
  objectFit: 'cover',
  display: 'block',
  mixBlendMode: 'multiply',
} as const;

/** A material's own picture, small; its address carries the version, so that a changed one is seen at once. */
export function MaterialPicture({
  id,
  side = 64,
  alt = '',
  tint,
  style,
}: {
  id: string;
  side?: number;
  alt?: string;
  /** Multiplied with its colours. */
  tint?: string;
  style: CSSProperties;
}) {
  const info = useManifest().data?.materials[id];
  const address = info
    ? `${info.url}/colour.webp?v=${info.v}&side=${side}`
    : `/api/kit/materials/${id}/colour.webp?side=${side}`;
  if (!tint || tint === '#ffffff') return <img alt={alt} src={address} style={style} />;
  return (
    <span style={{ ...style, background: tint, display: 'inline-block', overflow: 'hidden' }}>
      <img alt={alt} src={address} style={tinted} />
    </span>
  );
}
