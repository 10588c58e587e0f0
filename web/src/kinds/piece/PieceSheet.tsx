import { Box, Button, Checkbox, InputBase, Typography } from '@mui/material';
import { useEffect, useRef } from 'react';
import { useAssets, useManifest } from '../../state/derived';
import { useBenchParts } from '../../state/bench';
import { newKey, useSite } from '../../state/site';
import { figure, ink, mono } from '../../theme';
import { AssetPicture } from '../../ui/AssetPicture';
import { numbersOf } from '../../ui/numbers';
import { MaterialSelect, SURFACES } from '../../ui/MaterialSelect';
import { InWeather } from '../../ui/InWeather';
import { Section } from '../../ui/Section';
import { useItem } from '../../ui/useItem';
import { freeName } from '../../state/fresh';
import { MaterialPicture } from '../../ui/MaterialPicture';
import { membersOf } from './together';

export function PieceSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'piece');
  const assets = useAssets();
  const manifest = useManifest().data;
  const commit = useSite((s) => s.commit);
  const items = useSite((s) => s.items);
  const select = useSite((s) => s.select);
  const again = useRef(() => undefined as void);
  useEffect(() => {
    const onKey = (event: Event) => {
      if ((event as CustomEvent<string>).detail === 'd') again.current();
    };
    window.addEventListener('cenote-key', onKey);
    return () => window.removeEventListener('cenote-key', onKey);
  }, []);
  const { together, set } = useBenchParts('together', 'set');
  if (!plan) return null;
  const members = membersOf(items, plan.group);
  const asset = assets.find((a) => a.id === plan.asset);
  const duplicate = () => {
    const key = newKey('piece');
    const [x, y, z] = plan.position;
    commit(`duplicate ${plan.name}`, [
      {
        key,
        plan: {
          ...plan,
          name: freeName(items, plan.name),
          position: [x + (asset?.size[0] ?? 1) * plan.size * 1.1, y, z],
        },
      },
    ]);
    select(key);
  };
  again.current = duplicate;
  const number = numbersOf('PiecePlan', plan, plan.name, change, keep);
  const surfaces = manifest?.owners.find((o) => o.owner === itemKey)?.surfaces ?? [];
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'flex-end', mb: 1.5 }}>
        {asset ? (
          <Box sx={{ border: `1px solid ${ink.line}`, p: 0.5 }}>
            <AssetPicture asset={asset} size={64} />
          </Box>
        ) : null}
        <Box>
          <Typography>
            {asset?.title ?? (
              <span style={{ color: ink.brick }}>
                Its asset is no longer in the kit. Bring the model in again, or delete the piece.
              </span>
            )}
          </Typography>
          {asset && (
            <Typography sx={{ fontFamily: mono, fontSize: 11 }}>
              {asset.size.map((s) => (s * plan.size).toFixed(2)).join(' × ')} m
            </Typography>
          )}
          {asset && (
            <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>
              {figure(asset.triangles[0])} triangles
            </Typography>
          )}
        </Box>
      </Box>
      <Section title="Where" remark="drag the handles in the plate">
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 1 }}>
          {(['east', 'up', 'south'] as const).map((word, k) => (
            <Coordinate
              key={word}
              word={word}
              value={plan.position[k]}
              onCommit={(v) =>
                keep(`move ${plan.name}`, {
                  ...plan,
                  position: plan.position.map((p, n) => (n === k ? v : p)) as [number, number, number],
                })
              }
            />
          ))}
        </Box>
        {number('turn', 'turn')}
        {number('size', 'size')}
        {number('tilt', 'tilt')}
        {number('roll', 'roll')}
      </Section>
      {surfaces.length > 0 && (
        <Section title="Surfaces" remark={`${surfaces.length}`}>
          {surfaces.map((s) => (
            <Box key={s.ref} sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
              <MaterialPicture id={s.material} style={{ width: 20, height: 20 }} />
              <Typography sx={{ flex: 1, fontSize: 12.5 }}>{s.slot}</Typography>
              <MaterialSelect
                label={`Material of ${s.slot}`}
                value={s.material}
                kinds={SURFACES}
                onChosen={(id) =>
                  keep(`material of ${s.label}`, { ...plan, materials: { ...plan.materials, [s.slot]: id } })
                }
                sx={{ fontSize: 12, width: 140 }}
              />
            </Box>
          ))}
        </Section>
      )}
      <InWeather
        model="PiecePlan"
        value={plan}
        onDraft={(next) => change({ ...plan, ...next })}
        onCommit={(label, next) => keep(`${label}: ${plan.name}`, { ...plan, ...next })}
      />
      <Section title="At its foot" remark={plan.foot_width > 0 ? 'on it and on the ground' : 'a clean line'}>
        <MaterialSelect
          label="What gathers at its foot"
          value={plan.foot}
          kinds={SURFACES}
          onChosen={(foot) => keep(`foot of ${plan.name}`, { ...plan, foot })}
          sx={{ fontSize: 12.5 }}
        />
        {number('foot_width', 'how far up')}
      </Section>
      <Section title="Group">
        <InputBase
          key={plan.group}
          defaultValue={plan.group}
          placeholder="none"
          onBlur={(e) =>
            e.target.value !== plan.group &&
            keep(`group of ${plan.name}`, { ...plan, group: e.target.value.slice(0, 80) })
          }
          inputProps={{ 'aria-label': 'Group' }}
          sx={{ borderBottom: `1px solid ${ink.line}`, width: '100%' }}
        />
        {members.length > 1 && (
          <Box component="label" sx={{ display: 'flex', alignItems: 'center' }}>
            <Checkbox
              size="small"
              sx={{ p: 0.25 }}
              checked={together === plan.group}
              onChange={(e) => set({ together: e.target.checked ? plan.group : '' })}
            />
            <Typography sx={{ fontSize: 12.5 }}>
              Move and turn with the {members.length - 1} other{members.length > 2 ? 's' : ''} of ‘{plan.group}’
            </Typography>
          </Box>
        )}
      </Section>
      <Button onClick={duplicate}>Duplicate (D)</Button>
      <Button color="error" onClick={remove}>
        Delete this piece
      </Button>
    </>
  );
}

function Coordinate({ word, value, onCommit }: { word: string; value: number; onCommit: (v: number) => void }) {
  return (
    <Box>
      <Typography sx={{ fontSize: 10.5, color: 'text.secondary' }}>{word}, m</Typography>
      <InputBase
        key={value}
        defaultValue={Number(value.toFixed(3))}
        onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLInputElement).blur()}
        onBlur={(e) => {
          const v = Number(e.target.value.replace(',', '.'));
          if (Number.isFinite(v) && Math.abs(v) <= 100000 && v !== value) onCommit(v);
          else e.target.value = String(Number(value.toFixed(3)));
        }}
        inputProps={{
          'aria-label': `Position ${word}, m`,
          style: { fontFamily: mono, fontSize: 12, borderBottom: `1px solid ${ink.line}` },
        }}
      />
    </Box>
  );
}
