import { Box, Button, Menu, MenuItem, Select, Typography } from '@mui/material';
import type { Asset, PlanOf } from '../../api/client';
import { grassOf } from '../../api/tufts';
import { useAssets } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { mono } from '../../theme';
import { AssetPicture } from '../../ui/AssetPicture';
import { BladeSign } from '../../ui/BladeSign';
import { Section } from '../../ui/Section';
import { memoControl } from '../../ui/memoControl';
import { isGrass, shapeGrass, sown } from '../grass/ownGrass';
import { MixRow, type Part } from './MixRow';
import { useDropMenu } from '../../ui/dropMenu';

type Drift = PlanOf<'drift'>;
type Mixed = Pick<Drift, 'assets'> | Pick<Drift, 'tier'>;

interface Props {
  itemKey: string;
  name: string;
  mix: Drift['assets'];
  tier: Drift['tier'];
  onCommit: (label: string, change: Mixed) => void;
  onDraft: (change: Mixed) => void;
}

/** What a drift is made of, a grass of one's own with all its tufts as one part. */
export const Mix = memoControl(function Mix({ itemKey, name, mix, tier, onCommit, onDraft }: Props) {
  const { open, close, menu } = useDropMenu();
  const assets = useAssets();
  const items = useSite((s) => s.items);
  const parts = partsOf(mix, assets, (key) => items[key]?.plan.name);
  const total = mix.reduce((sum, a) => sum + a.weight, 0);
  const add = (title: string, shares: Drift['assets']) => {
    close();
    onCommit(`${title} in ${name}`, { assets: [...mix, ...shares] });
  };
  const offered = (asset: Asset) =>
    asset.kind !== 'structure' && !grassOf(asset.id) && !mix.some((s) => s.asset === asset.id);
  return (
    <Section title="What" remark={`${parts.length} asset${parts.length === 1 ? '' : 's'}`}>
      {parts.map((part) => (
        <MixRow
          key={part.key}
          part={part}
          total={total}
          onWeight={(weight) => onCommit(`mix of ${name}`, { assets: weighed(mix, part, weight) })}
          onWeightDraft={(weight) => onDraft({ assets: weighed(mix, part, weight) })}
          onShape={part.asset && isGrass(part.asset) ? () => void shapeGrass(itemKey, part.asset!.id) : undefined}
          onTakeOut={() => onCommit(`mix of ${name}`, { assets: mix.filter((share) => !part.shares.includes(share)) })}
        />
      ))}
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Button onClick={open}>+ asset</Button>
        <Box sx={{ flex: 1 }} />
        <Select
          variant="standard"
          value={tier}
          onChange={(e) => onCommit(`tier of ${name}`, { tier: e.target.value as Drift['tier'] })}
          inputProps={{ 'aria-label': 'Tier' }}
          sx={{ fontSize: 12 }}
        >
          {['canopy', 'shrub', 'cover', 'litter'].map((t) => (
            <MenuItem key={t} value={t}>
              {t} tier
            </MenuItem>
          ))}
        </Select>
      </Box>
      <Menu {...menu}>
        <MenuItem
          onClick={() => {
            close();
            void shapeGrass(itemKey);
          }}
        >
          <Box sx={{ width: 28, display: 'flex', justifyContent: 'center' }}>
            <BladeSign size={22} />
          </Box>
          <Typography sx={{ ml: 1, flex: 1, fontStyle: 'italic' }}>a new grass of your own…</Typography>
        </MenuItem>
        {itemsOf(items, 'grass')
          .filter((grass) => !parts.some((part) => part.key === grass.key))
          .map((grass) => (
            <Offer
              key={grass.key}
              asset={assets.find((a) => grassOf(a.id) === grass.key)}
              title={grass.plan.name}
              onTake={() => add(grass.plan.name, sown(grass.key, 1))}
            />
          ))}
        {assets.filter(offered).map((asset) => (
          <Offer
            key={asset.id}
            asset={asset}
            title={asset.title}
            onTake={() => add(asset.title, [{ asset: asset.id, weight: 1 }])}
          />
        ))}
      </Menu>
    </Section>
  );
});

function Offer({ asset, title, onTake }: { asset: Asset | undefined; title: string; onTake: () => void }) {
  return (
    <MenuItem onClick={onTake}>
      {asset ? <AssetPicture asset={asset} size={28} /> : <Box sx={{ width: 28 }} />}
      <Typography sx={{ ml: 1, flex: 1 }}>{title}</Typography>
      <Typography sx={{ ml: 2, fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>
        {asset && `${asset.size[1]} m high`}
      </Typography>
    </MenuItem>
  );
}

function partsOf(mix: Drift['assets'], assets: Asset[], nameOf: (grass: string) => string | undefined): Part[] {
  const parts: Part[] = [];
  for (const share of mix) {
    const own = grassOf(share.asset);
    const asset = assets.find((a) => a.id === share.asset);
    const before = own && parts.find((part) => part.key === own);
    if (before) before.shares.push(share);
    else parts.push({ key: own ?? share.asset, title: (own && nameOf(own)) ?? asset?.title, asset, shares: [share] });
  }
  return parts;
}

/** The mix with another weight for one part; its tufts share it as they did. */
function weighed(mix: Drift['assets'], { shares }: Part, weight: number) {
  const before = shares.reduce((sum, share) => sum + share.weight, 0);
  return mix.map((share) =>
    shares.includes(share)
      ? { ...share, weight: before > 0 ? (share.weight / before) * weight : weight / shares.length }
      : share,
  );
}
