import { Box } from '@mui/material';
import type { ItemPlan } from '../api/client';
import { kindOf } from '../kinds';
import { useAssets } from '../state/derived';
import { AssetPicture } from '../ui/AssetPicture';
import { MaterialPicture } from '../ui/MaterialPicture';

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
  const kind = kindOf(plan);
  const of = kind?.swatch?.(plan);
  if (kind?.mark) return <kind.mark plan={plan} />;
  if (of?.material)
    return <MaterialPicture id={of.material} tint={of.tint} style={{ ...square, background: of.paper }} />;
  const asset = assets.find((a) => a.id === of?.asset);
  return (
    <Box sx={{ ...square, border: 0, color: 'currentColor' }}>{asset && <AssetPicture asset={asset} size={20} />}</Box>
  );
}
