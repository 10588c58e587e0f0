import { Box } from '@mui/material';
import type { ItemPlan } from '../api/client';
import { useAssets } from '../state/derived';
import { AssetPicture } from './AssetPicture';

const square = { width: 20, height: 20, objectFit: 'cover' as const, border: '1px solid rgba(32,38,43,.35)', flexShrink: 0 };

/** A small picture drawn from the item's real data. */
export function Swatch({ plan }: { plan: ItemPlan }) {
  const assets = useAssets();
  if (plan.kind === 'patina') return <img alt="" style={square} src={`/api/kit/materials/${plan.finish.material}/colour.webp?side=64`} />;
  if (plan.kind === 'decal') return <img alt="" style={{ ...square, background: '#bdb8ac' }} src={`/api/kit/materials/${plan.picture}/colour.webp?side=64`} />;
  const id = plan.kind === 'drift' ? plan.assets[0]?.asset : plan.kind === 'piece' ? plan.asset : undefined;
  const asset = assets.find((a) => a.id === id);
  return <Box sx={{ ...square, border: 0, color: 'currentColor' }}>{asset && <AssetPicture asset={asset} size={20} />}</Box>;
}
