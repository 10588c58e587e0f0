import { Box, Button, InputBase, Menu, MenuItem, Select, Typography } from '@mui/material';
import { useState } from 'react';
import type { PlanOf } from '../../../api/client';
import { useAssets } from '../../../state/derived';
import { mono } from '../../../theme';
import { AssetPicture } from '../../AssetPicture';
import { Section } from '../../controls/Section';
import { steady } from '../../controls/steady';

type Drift = PlanOf<'drift'>;
type Mixed = Pick<Drift, 'assets'> | Pick<Drift, 'tier'>;

interface Props {
  name: string;
  mix: Drift['assets'];
  tier: Drift['tier'];
  onCommit: (label: string, change: Mixed) => void;
  onDraft: (change: Mixed) => void;
}

/** What a drift is made of: assets and how often each is taken. */
export const Mix = steady(function Mix({ name, mix, tier, onCommit, onDraft }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const assets = useAssets();
  const total = mix.reduce((sum, a) => sum + a.weight, 0);
  const weighed = (index: number, weight: number) => ({ assets: mix.map((a, k) => (k === index ? { ...a, weight } : a)) });
  return (
    <Section title="What" remark={`${mix.length} asset${mix.length === 1 ? '' : 's'}`}>
      {mix.map((share, k) => {
        const asset = assets.find((a) => a.id === share.asset);
        return (
          <Box key={share.asset} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
            {asset ? <AssetPicture asset={asset} size={22} /> : <Box sx={{ width: 22 }} />}
            <Typography sx={{ flex: 1, fontSize: 12.5, color: asset ? 'inherit' : 'warning.main' }}>{asset?.title ?? `${share.asset}: no longer in the kit`}</Typography>
            <InputBase
              key={share.weight} defaultValue={share.weight} inputProps={{ 'aria-label': `Weight of ${asset?.title ?? share.asset}`, style: { width: 32, textAlign: 'right', fontFamily: mono, fontSize: 12 } }}
              onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLInputElement).blur()}
              onBlur={(e) => {
                const weight = Number(e.target.value.replace(',', '.'));
                if (Number.isFinite(weight) && weight >= 0 && weight <= 1000 && weight !== share.weight) onCommit(`mix of ${name}`, weighed(k, weight));
                else e.target.value = String(share.weight);
              }}
              onChange={(e) => { const w = Number(e.target.value); if (w > 0 && w <= 1000) onDraft(weighed(k, w)); }}
            />
            <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary', width: 34, textAlign: 'right' }}>{total > 0 ? Math.round((share.weight / total) * 100) : 0} %</Typography>
            <Button color="inherit" aria-label={`Take out ${asset?.title ?? share.asset}`} sx={{ px: 0.5, lineHeight: 1 }} onClick={() => onCommit(`mix of ${name}`, { assets: mix.filter((_, n) => n !== k) })}>×</Button>
          </Box>
        );
      })}
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Button onClick={(e) => setAnchor(e.currentTarget)}>+ asset</Button>
        <Box sx={{ flex: 1 }} />
        <Select variant="standard" value={tier} onChange={(e) => onCommit(`tier of ${name}`, { tier: e.target.value as Drift['tier'] })} inputProps={{ 'aria-label': 'Tier' }} sx={{ fontSize: 12 }}>
          {['canopy', 'shrub', 'cover', 'litter'].map((t) => <MenuItem key={t} value={t}>{t} tier</MenuItem>)}
        </Select>
      </Box>
      <Menu anchorEl={anchor} open={Boolean(anchor)} onClose={() => setAnchor(null)} slotProps={{ paper: { sx: { maxHeight: 460 } } }}>
        {assets.filter((a) => a.kind !== 'structure' && !mix.some((s) => s.asset === a.id)).map((asset) => (
          <MenuItem key={asset.id} onClick={() => { setAnchor(null); onCommit(`${asset.title} in ${name}`, { assets: [...mix, { asset: asset.id, weight: 1 }] }); }}>
            <AssetPicture asset={asset} size={28} />
            <Typography sx={{ ml: 1, flex: 1 }}>{asset.title}</Typography>
            <Typography sx={{ ml: 2, fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>{asset.size[1]} m high</Typography>
          </MenuItem>
        ))}
      </Menu>
    </Section>
  );
});
