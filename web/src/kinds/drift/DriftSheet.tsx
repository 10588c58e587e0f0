import { Button, Tooltip, Typography } from '@mui/material';
import type { Asset, PlanOf, Rule } from '../../api/client';
import { useAssets, useEffects } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { figure, mono } from '../../theme';
import { Chooser } from '../../ui/Chooser';
import { Fold } from '../../ui/Fold';
import { MaskButton } from '../../ui/MaskButton';
import { HandList } from '../../ui/HandList';
import { numbersOf } from '../../ui/numbers';
import { Reason } from '../../ui/Reason';
import { Rules } from '../../ui/Rules';
import { InWeather } from '../../ui/InWeather';
import { Section } from '../../ui/Section';
import { Tint } from '../../ui/Tint';
import { SurfaceList, SurfaceMenu } from '../../ui/Surfaces';
import { ToolRow } from '../../ui/Tools';
import { useItem } from '../../ui/useItem';
import { startLine, takeInTurn } from './handWork';
import { KeepOuts } from './KeepOuts';
import { Mix } from './Mix';
import { PickedPanel } from './PickedPanel';

type Drift = PlanOf<'drift'>;

export function DriftSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'drift');
  const effect = useEffects()[itemKey];
  const assets = useAssets();
  const items = useSite((s) => s.items);
  if (!plan) return null;
  const number = numbersOf('DriftPlan', plan, plan.name, change, keep);
  const part = <K extends 'arrangement' | 'border' | 'litter' | 'match'>(name: K, model: string) =>
    numbersOf(
      model,
      plan[name] as object as Record<string, number>,
      plan.name,
      (next) => change({ ...plan, [name]: next }),
      (label, next) => keep(label, { ...plan, [name]: next }),
    );
  const varied = numbersOf(
    'Variety',
    plan.variety,
    plan.name,
    (next) => change({ ...plan, variety: ordered(next, plan.variety) }),
    (label, next) => keep(label, { ...plan, variety: ordered(next, plan.variety) }),
  );
  const arranged = part('arrangement', 'Arrangement'),
    bordered = part('border', 'Border'),
    littered = part('litter', 'Litter'),
    matched = part('match', 'Match');
  const ruled = (field: 'rules' | 'size_rules') => ({
    itemKey,
    plan,
    rules: plan[field] as Rule[],
    asked: { ...plan, rules: plan[field] } as Drift,
    onDraft: (rules: Rule[]) => change({ ...plan, [field]: rules }),
    onCommit: (label: string, rules: Rule[]) => keep(label, { ...plan, [field]: rules }),
  });
  const triangles =
    plan.assets.reduce(
      (sum, share) => sum + (assets.find((a) => a.id === share.asset)?.triangles[0] ?? 0) * share.weight,
      0,
    ) /
    Math.max(
      1e-9,
      plan.assets.reduce((s, a) => s + a.weight, 0),
    );
  const { arrangement, border, litter } = plan;
  return (
    <>
      <ToolRow
        tools={[
          { tool: 'look', label: 'Look', help: 'Drag turns the view, right button moves it, wheel goes nearer' },
          { tool: 'more', label: 'Paint', help: 'Paint more of this drift onto a surface (P)' },
          { tool: 'less', label: 'Thin', help: 'Thin by hand (T)' },
          { tool: 'erase', label: 'Erase', help: 'Leave nothing under the brush' },
          {
            tool: 'place',
            label: 'One',
            help: 'Set down one thing a click, the assets in turn (O)',
            onTake: () => takeInTurn(itemKey),
          },
          {
            tool: 'draw',
            label: 'Line',
            help: 'Set it along a line drawn by clicks (L)',
            onTake: () => startLine(itemKey),
          },
          { tool: 'pick', label: 'Pick', help: 'Pick single things to move, turn, size, replace or take away (M)' },
          { tool: 'lasso', label: 'Lasso', help: 'Pick by drawing around (Q)' },
        ]}
      />
      <PickedPanel itemKey={itemKey} plan={plan} />
      <Reason itemKey={itemKey} />
      <MaskButton />
      <Mix
        itemKey={itemKey}
        name={plan.name}
        mix={plan.assets}
        tier={plan.tier}
        onCommit={(label, part) => keep(label, grown({ ...plan, ...part }, plan, assets))}
        onDraft={(part) => change({ ...plan, ...part })}
      />
      <Section title="How dense" remark={effect ? `${figure(effect.amount)} stand` : ''}>
        {number('density', 'density')}
        {number('spacing', 'least spacing')}
        {number('headroom', 'headroom')}
        {number('seed', 'seed')}
      </Section>
      <Fold
        title="How it lies"
        remark={
          [
            arrangement.clump > 0 && `clumps ${arrangement.clump} m`,
            arrangement.rows > 0 && `rows ${arrangement.rows} m`,
            border.width > 0 && `border ${border.width} m`,
          ]
            .filter(Boolean)
            .join(', ') || 'evenly'
        }
      >
        {arranged('regularity', 'regular')}
        {arranged('clump', 'clump width')}
        {arrangement.clump > 0 && arranged('tightness', 'tightness')}
        {arranged('rows', 'rows apart')}
        {arrangement.rows > 0 && arranged('heading', 'rows run')}
        {!arrangement.rows && (
          <Tick
            label="push each other apart"
            help="They lie more evenly, and up to a fifth more find room at the same spacing. Turned on or off, most come to stand elsewhere."
            on={arrangement.even}
            onChange={(even) => keep(`evenness, ${plan.name}`, { ...plan, arrangement: { ...arrangement, even } })}
          />
        )}
        <Tick
          label="large ones keep more distance"
          help="The spacing is that of one of size 1: larger ones keep more, smaller ones less."
          on={arrangement.by_size}
          onChange={(by_size) =>
            keep(`spacing by size, ${plan.name}`, { ...plan, arrangement: { ...arrangement, by_size } })
          }
        />
        {bordered('width', 'border width')}
        {border.width > 0 && bordered('size', 'size at the border')}
        {border.width > 0 && bordered('density', 'density at the border')}
        {border.width > 0 && bordered('ragged', 'ragged')}
      </Fold>
      <Section title="On" remark={`${plan.surfaces.length} surface${plan.surfaces.length === 1 ? '' : 's'}`}>
        <SurfaceList
          refs={plan.surfaces}
          onRemove={(ref) =>
            keep(`surfaces of ${plan.name}`, { ...plan, surfaces: plan.surfaces.filter((r) => r !== ref) })
          }
        />
        <SurfaceMenu
          word="+ surface"
          chosen={plan.surfaces}
          onChange={(surfaces) => keep(`surfaces of ${plan.name}`, { ...plan, surfaces })}
        />
      </Section>
      <Rules
        {...ruled('rules')}
        remark={`${plan.rules.length} rules`}
        verb={plan.tier === 'litter' ? 'lies' : 'stands'}
      />
      <KeepOuts
        itemKey={itemKey}
        title={plan.name}
        keepOuts={plan.keep_outs}
        onCommit={(label, keep_outs) => keep(label, { ...plan, keep_outs })}
        onDraft={(keep_outs) => change({ ...plan, keep_outs })}
      />
      {plan.tier === 'litter' && (
        <Section title="From the crowns above" remark={litter.on ? 'on' : 'off'}>
          <Tick
            label="lies where crowns shed it"
            help="Leaves and twigs lie below and downwind of the trees they fall from, instead of everywhere."
            on={litter.on}
            onChange={(on) => keep(`litter of ${plan.name}`, { ...plan, litter: { ...litter, on } })}
          />
          {litter.on && littered('carry', 'carried by the wind')}
          {litter.on && littered('gather', 'gathers in corners')}
          {litter.on && (
            <Chooser
              options={itemsOf(items, 'drift')
                .filter((d) => d.key !== itemKey)
                .map((d) => ({ id: d.key, title: d.plan.name }))}
              none="from all trees and shrubs"
              chosen={litter.sources ?? []}
              onChange={(sources) => keep(`sources of ${plan.name}`, { ...plan, litter: { ...litter, sources } })}
            />
          )}
        </Section>
      )}
      <Section title="How varied">
        {varied('size_min', 'smallest')}
        {varied('size_max', 'largest')}
        {varied('size_bias', 'mostly small or large')}
        {varied('turn', 'turn')}
        {varied('lean', 'lean')}
        {varied('follow', 'follows the surface')}
        {varied('sink_min', 'sunk at least')}
        {varied('sink_max', 'sunk at most')}
        {varied('tint', 'tint')}
        {varied('mirrored', 'mirrored')}
      </Section>
      <Fold
        title="Size by place"
        remark={plan.size_rules.length ? `${plan.size_rules.length} rules` : 'the same everywhere'}
      >
        <Rules
          {...ruled('size_rules')}
          title="Grows large where"
          remark={`${plan.size_rules.length} rules`}
          verb="grows full size"
          empty="No rule: the same size everywhere."
        />
        {plan.size_rules.length > 0 && number('size_least', 'size elsewhere')}
      </Fold>
      <Fold
        title="Match to the scene"
        remark={plan.match.gain === 1 && plan.match.tint === '#ffffff' ? 'as made' : 'corrected'}
      >
        {matched('gain', 'brightness')}
        <Tint
          value={plan.match.tint}
          onDraft={(tint) => change({ ...plan, match: { ...plan.match, tint } })}
          onCommit={(tint) => keep(`tint of ${plan.name}`, { ...plan, match: { ...plan.match, tint } })}
        />
      </Fold>
      <InWeather
        model="DriftPlan"
        value={plan}
        onDraft={(next) => change({ ...plan, ...next })}
        onCommit={(label, next) => keep(`${label}: ${plan.name}`, { ...plan, ...next })}
      />
      <HandList target={itemKey} />
      <Section title="Cost">
        <Typography sx={{ fontFamily: mono, fontSize: 12 }}>
          {figure(effect?.amount ?? 0)} × {figure(triangles)} triangles, finest
        </Typography>
        <Button color="error" onClick={remove}>
          Delete this drift
        </Button>
      </Section>
    </>
  );
}

function Tick({
  label,
  help,
  on,
  onChange,
}: {
  label: string;
  help: string;
  on: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <Tooltip title={help} placement="right">
      <label style={{ fontSize: 12.5, display: 'block' }}>
        <input type="checkbox" checked={on} onChange={(e) => onChange(e.target.checked)} /> {label}
      </label>
    </Tooltip>
  );
}

/** What is taller than this stands upright on a slope, metres. */
const TREE = 3;

/** When a drift becomes one of trees, they stand upright, as trees on a slope do; what was set by hand since stays. */
function grown(next: Drift, before: Drift, assets: Asset[]): Drift {
  const tall = ({ assets: mix, tier }: Drift) =>
    tier === 'canopy' || mix.some((share) => (assets.find((a) => a.id === share.asset)?.size[1] ?? 0) > TREE);
  return tall(next) && !tall(before)
    ? { ...next, variety: { ...next.variety, follow: 0, lean: Math.min(next.variety.lean, 3) } }
    : next;
}

/** Keep least below greatest, whichever of the two was moved. */
function ordered(next: Drift['variety'], before: Drift['variety']) {
  const out = { ...next };
  if (next.size_min !== before.size_min) out.size_max = Math.max(out.size_max, out.size_min);
  else out.size_min = Math.min(out.size_min, out.size_max);
  if (next.sink_min !== before.sink_min) out.sink_max = Math.max(out.sink_max, out.sink_min);
  else out.sink_min = Math.min(out.sink_min, out.sink_max);
  return out;
}
