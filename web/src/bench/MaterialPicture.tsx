import type { CSSProperties } from 'react';
import { useManifest } from '../state/derived';

/** A material's own picture, small; its address carries the version, so that a changed one is seen at once. */
export function MaterialPicture({
  id,
  side = 64,
  alt = '',
  style,
}: {
  id: string;
  side?: number;
  alt?: string;
  style: CSSProperties;
}) {
  const info = useManifest().data?.materials[id];
  const address = info
    ? `${info.url}/colour.webp?v=${info.v}&side=${side}`
    : `/api/kit/materials/${id}/colour.webp?side=${side}`;
  return <img alt={alt} src={address} style={style} />;
}
