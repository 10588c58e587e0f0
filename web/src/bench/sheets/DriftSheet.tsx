import { Box, Button, InputBase, Menu, MenuItem, Select, Typography } from '@mui/material';
import { useState } from 'react';
import type { PlanOf } from '../../api/client';
import { useAssets, useEffects } from '../../state/derived';
import { figure, mono } from '../../theme';
import { AssetPicture } from '../AssetPicture';
import { Field } from '../controls/Field';
import { Reason } from '../controls/Reason';
import { Rules } from '../controls/Rules';
import { Section } from '../controls/Section';
import { SurfaceList, SurfaceMenu } from '../controls/Surfaces';
import { PaintTools } from '../controls/Tools';
import { Touches } from '../controls/Touches';
import { useItem } from '../controls/useItem';

export function DriftSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'drift');
  const effect = useEffects()[itemKey];
  const assets = useAssets();
  if (!plan) return null;
  const number = (field: 'density' | 'spacing' | 'headroom' | 'seed', label: string, slider?: { min: number; max: number; curve?: number }) => (
    <Field model="DriftPlan" field={field} label={label} value={plan[field]} slider={slider} onDraft={(v) => change({ ...plan, [field]: v })} onCommit={(v) => keep(`${label} of ${plan.name}`, { ...plan, [field]: v })} />
  );
  const varied = (field: keyof PlanOf<'drift'>['variety'], label: string, slider: { min: number; max: number; curve?: number }) => (
    <Field
      model="Variety" field={field} label={label} value={plan.variety[field]} slider={slider}
      onDraft={(v) => change({ ...plan, variety: ordered({ ...plan.variety, [field]: v }, field) })}
      onCommit={(v) => keep(`${label} of ${plan.name}`, { ...plan, variety: ordered({ ...plan.variety, [field]: v }, field) })}
    />
  );
  const triangles = plan.assets.reduce((sum, share) => sum + (assets.find((a) => a.id === share.asset)?.triangles[0] ?? 0) * share.weight, 0) / Math.max(1e-9, plan.assets.reduce((s, a) => s + a.weight, 0));
  return (
    <>
      <PaintTools words={{ more: 'Paint more of this drift onto a surface', less: 'Thin or remove by hand' }} />
      <Reason itemKey={itemKey} />
      <Mix plan={plan} onCommit={keep} onDraft={change} />
      <Section title="How dense" remark={effect ? `${figure(effect.amount)} stand` : ''}>
        {number('density', 'density', { min: 0, max: 40, curve: 2.5 })}
        {number('spacing', 'least spacing', { min: 0.05, max: 6, curve: 2.5 })}
        {number('headroom', 'headroom', { min: 0, max: 10, curve: 2 })}
        {number('seed', 'seed')}
      </Section>
      <Section title="On" remark={`${plan.surfaces.length} surface${plan.surfaces.length === 1 ? '' : 's'}`}>
        <SurfaceList refs={plan.surfaces} onRemove={(ref) => keep(`surfaces of ${plan.name}`, { ...plan, surfaces: plan.surfaces.filter((r) => r !== ref) })} />
        <SurfaceMenu word="+ surface" chosen={plan.surfaces} onChange={(surfaces) => keep(`surfaces of ${plan.name}`, { ...plan, surfaces })} />
      </Section>
      <Rules itemKey={itemKey} plan={plan} remark={`${plan.rules.length} rules`} onDraft={change} onCommit={keep} />
      <Section title="How varied">
        {varied('size_min', 'smallest', { min: 0.05, max: 3 })}
        {varied('size_max', 'largest', { min: 0.05, max: 3 })}
        {varied('size_bias', 'mostly small or large', { min: -1, max: 1 })}
        {varied('turn', 'turn', { min: 0, max: 360 })}
        {varied('lean', 'lean', { min: 0, max: 60 })}
        {varied('follow', 'follows the surface', { min: 0, max: 1 })}
        {varied('sink_max', 'sunk at most', { min: -0.2, max: 0.5 })}
        {varied('tint', 'tint', { min: 0, max: 1 })}
      </Section>
      <Touches itemKey={itemKey} />
      <Section title="Cost">
        <Typography sx={{ fontFamily: mono, fontSize: 12 }}>{figure(effect?.amount ?? 0)} × {figure(triangles)} triangles, finest</Typography>
        <Button color="error" onClick={remove}>Delete this drift</Button>
      </Section>
    </>
  );
}

/** Keep least below greatest, whichever of the two was moved. */
function ordered(variety: PlanOf<'drift'>['variety'], field: string) {
  const next = { ...variety };
  if (field === 'size_min') next.size_max = Math.max(next.size_max, next.size_min);
  if (field === 'size_max') next.size_min = Math.min(next.size_min, next.size_max);
  if (field === 'sink_max') next.sink_min = Math.min(next.sink_min, next.sink_max);
  return next;
}

function Mix({ plan, onCommit, onDraft }: { plan: PlanOf<'drift'>; onCommit: (label: string, plan: PlanOf<'drift'>) => void; onDraft: (plan: PlanOf<'drift'>) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const assets = useAssets();
  const total = plan.assets.reduce((sum, a) => sum + a.weight, 0);
  const weighed = (index: number, weight: number) => ({ ...plan, assets: plan.assets.map((a, k) => (k === index ? { ...a, weight } : a)) });
  return (
    <Section title="What" remark={`${plan.assets.length} asset${plan.assets.length === 1 ? '' : 's'}`}>
      {plan.assets.map((share, k) => {
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
                if (Number.isFinite(weight) && weight >= 0 && weight <= 1000 && weight !== share.weight) onCommit(`mix of ${plan.name}`, weighed(k, weight));
                else e.target.value = String(share.weight);
              }}
              onChange={(e) => { const w = Number(e.target.value); if (w > 0 && w <= 1000) onDraft(weighed(k, w)); }}
            />
            <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary', width: 34, textAlign: 'right' }}>{total > 0 ? Math.round((share.weight / total) * 100) : 0} %</Typography>
            <Button color="inherit" aria-label={`Take out ${asset?.title ?? share.asset}`} sx={{ px: 0.5, lineHeight: 1 }} onClick={() => onCommit(`mix of ${plan.name}`, { ...plan, assets: plan.assets.filter((_, n) => n !== k) })}>×</Button>
          </Box>
        );
      })}
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Button onClick={(e) => setAnchor(e.currentTarget)}>+ asset</Button>
        <Box sx={{ flex: 1 }} />
        <Select variant="standard" value={plan.tier} onChange={(e) => onCommit(`tier of ${plan.name}`, { ...plan, tier: e.target.value as PlanOf<'drift'>['tier'] })} inputProps={{ 'aria-label': 'Tier' }} sx={{ fontSize: 12 }}>
          {['canopy', 'shrub', 'cover', 'litter'].map((t) => <MenuItem key={t} value={t}>{t} tier</MenuItem>)}
        </Select>
      </Box>
      <Menu anchorEl={anchor} open={Boolean(anchor)} onClose={() => setAnchor(null)} slotProps={{ paper: { sx: { maxHeight: 420 } } }}>
        {assets.filter((a) => a.kind !== 'structure' && !plan.assets.some((s) => s.asset === a.id)).map((asset) => (
          <MenuItem key={asset.id} onClick={() => { setAnchor(null); onCommit(`${asset.title} in ${plan.name}`, { ...plan, assets: [...plan.assets, { asset: asset.id, weight: 1 }] }); }}>
            <AssetPicture asset={asset} size={28} />
            <Typography sx={{ ml: 1, flex: 1 }}>{asset.title}</Typography>
            <Typography sx={{ ml: 2, fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>{asset.size[1]} m high</Typography>
          </MenuItem>
        ))}
      </Menu>
    </Section>
  );
}
