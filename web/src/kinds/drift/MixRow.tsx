import { Box, Button, InputBase, Tooltip, Typography } from '@mui/material';
import type { Asset, PlanOf } from '../../api/client';
import { mono } from '../../theme';
import { AssetPicture } from '../../ui/AssetPicture';
import { BladeSign } from '../../ui/BladeSign';

/** One asset of a mix, or all tufts of a grass. */
export interface Part {
  key: string;
  title: string | undefined;
  asset: Asset | undefined;
  shares: PlanOf<'drift'>['assets'];
}

interface Props {
  part: Part;
  /** Of the weights of the whole mix. */
  total: number;
  onWeight: (weight: number) => void;
  onWeightDraft: (weight: number) => void;
  onShape?: () => void;
  onTakeOut: () => void;
}

export function MixRow({ part, total, onWeight, onWeightDraft, onShape, onTakeOut }: Props) {
  const { asset, shares } = part;
  const title = part.title ?? part.key;
  const weight = Number(shares.reduce((sum, share) => sum + share.weight, 0).toFixed(3));
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
      {asset ? <AssetPicture asset={asset} size={22} /> : <Box sx={{ width: 22 }} />}
      <Typography sx={{ flex: 1, fontSize: 12.5, color: asset ? 'inherit' : 'warning.main' }}>
        {asset ? title : `${title}: no longer in the kit`}
      </Typography>
      <InputBase
        key={weight}
        defaultValue={weight}
        inputProps={{
          'aria-label': `Weight of ${title}`,
          style: { width: 32, textAlign: 'right', fontFamily: mono, fontSize: 12 },
        }}
        onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLInputElement).blur()}
        onBlur={(e) => {
          const next = Number(e.target.value.replace(',', '.'));
          if (Number.isFinite(next) && next >= 0 && next <= 1000 && next !== weight) onWeight(next);
          else e.target.value = String(weight);
        }}
        onChange={(e) => {
          const next = Number(e.target.value);
          if (next > 0 && next <= 1000) onWeightDraft(next);
        }}
      />
      <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary', width: 34, textAlign: 'right' }}>
        {total > 0 ? Math.round((weight / total) * 100) : 0} %
      </Typography>
      {onShape && (
        <Tooltip
          title={shares.length > 1 ? 'Open how this grass grows' : 'Make it a grass of your own and shape its blades'}
        >
          <Button color="inherit" aria-label={`Shape ${title}`} sx={{ px: 0.5, lineHeight: 1 }} onClick={onShape}>
            <BladeSign />
          </Button>
        </Tooltip>
      )}
      <Button color="inherit" aria-label={`Take out ${title}`} sx={{ px: 0.5, lineHeight: 1 }} onClick={onTakeOut}>
        ×
      </Button>
    </Box>
  );
}
