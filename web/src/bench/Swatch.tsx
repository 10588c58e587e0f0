import { Box } from '@mui/material';
import type { ItemPlan } from '../api/client';
import { useAssets } from '../state/derived';
import { AssetPicture } from './AssetPicture';
import { MaterialPicture } from './MaterialPicture';

const square = {
  width: 20,
  height: 20,
  objectFit: 'cover' as const,
  border: '1px solid rgba(32,38,43,.35)',
  flexShrink: 0,
};

/** A small picture drawn from the item's real data. */
export function Swatch({ plan }: { plan: ItemPlan }) {
  const assets = useAssets();
  if (plan.kind === 'patina') return <MaterialPicture id={plan.finish.material} style={square} />;
  if (plan.kind === 'decal') return <MaterialPicture id={plan.picture} style={{ ...square, background: '#bdb8ac' }} />;
  const id = plan.kind === 'drift' ? plan.assets[0]?.asset : plan.kind === 'piece' ? plan.asset : undefined;
  const asset = assets.find((a) => a.id === id);
  return (
    <Box sx={{ ...square, border: 0, color: 'currentColor' }}>{asset && <AssetPicture asset={asset} size={20} />}</Box>
  );
}
