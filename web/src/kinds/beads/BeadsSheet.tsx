import { Box, Button, MenuItem, Select, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { defaults, fresh } from '../../api/defaults';
import { Field } from '../../ui/Field';
import { HandList } from '../../ui/HandList';
import { MaskButton } from '../../ui/MaskButton';
import { numbersOf } from '../../ui/numbers';
import { Reason } from '../../ui/Reason';
import { Rules } from '../../ui/Rules';
import { Section } from '../../ui/Section';
import { SurfaceMenu, useCarriers } from '../../ui/Surfaces';
import { ToolRow } from '../../ui/Tools';
import { useItem } from '../../ui/useItem';
import { useEffects } from '../../state/derived';
import { Scrub } from './Scrub';
import compared from './compared.webp';
import { usePlateMiddle } from './middle';

type Beads = PlanOf<'beads'>;
type Region = Beads['regions'][number];

export function BeadsSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'beads');
  const effect = useEffects()[itemKey];
  const carriers = useCarriers();
  if (!plan) return null;
  const number = numbersOf('BeadsPlan', plan, plan.name, change, keep);
  const count = effect ? Math.round(effect.amount).toLocaleString('en').replaceAll(',', ' ') : '';
  return (
    <>
      <Section
        title="On"
        remark={
          plan.uses.length ? `${plan.uses.length} ${plan.uses.length === 1 ? 'surface' : 'surfaces'}` : 'no surface yet'
        }
      >
        {plan.uses.map(({ surface }) => (
          <Typography key={surface} sx={{ fontSize: 12.5 }}>
            {carriers.find((c) => c.ref === surface)?.label ?? `${surface}, gone`}
          </Typography>
        ))}
        <SurfaceMenu
          word="+ surface"
          chosen={plan.uses.map((u) => u.surface)}
          onChange={(refs) =>
            keep(`surfaces of ${plan.name}`, {
              ...plan,
              uses: refs.map((surface) => plan.uses.find((u) => u.surface === surface) ?? { surface, amount: 1 }),
            })
          }
        />
      </Section>
      <Reason itemKey={itemKey} />
      <Typography sx={{ mb: 1, fontSize: 12, color: 'text.secondary' }}>
        {effect?.amount ? (plan.drawn ? `drawn on ${(effect.amount * 200).toFixed(0)} %` : `${count} droplets`) : ''}
      </Typography>
      <MaskButton />
      <ToolRow
        tools={[
          { tool: 'look', label: 'Look', help: 'Drag turns the view, right button moves it, wheel goes nearer' },
          { tool: 'more', label: 'Paint', help: 'Let them form where the brush goes (P)' },
          { tool: 'less', label: 'Thin', help: 'Wipe them away by hand (T)' },
          { tool: 'erase', label: 'Erase', help: 'Leave none under the brush' },
          {
            tool: 'lay',
            label: 'Lay',
            help: 'Lay droplets one after another along the stroke, evenly over the surface',
          },
        ]}
      />
      <Section title="How they are made" remark={plan.drawn ? 'relief and gloss' : 'bodies of water'}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={plan.drawn ? 'drawn' : 'shaped'}
          onChange={(_, way: string | null) =>
            way && keep(`${way} droplets: ${plan.name}`, { ...plan, drawn: way === 'drawn' })
          }
          aria-label="How they are made"
        >
          <ToggleButton value="shaped">Shaped</ToggleButton>
          <ToggleButton value="drawn">Drawn</ToggleButton>
        </ToggleButtonGroup>
        <Typography sx={{ mt: 0.5, fontSize: 11.5, color: 'text.secondary' }}>{plan.drawn ? DRAWN : SHAPED}</Typography>
        <Box
          component="img"
          src={compared}
          alt="The same bucket close by: at the left shaped, at the right drawn droplets"
          sx={{ width: '100%', mt: 0.5, display: 'block' }}
        />
      </Section>
      <Section title="Droplets">
        {number('size', 'larger ones')}
        {number('crowded', 'grown together')}
        {number('between', 'young ones between')}
        {number('angle', 'contact angle', 'material’s')}
        {number('uneven', 'uneven edge')}
        {number('amount', 'amount')}
        {!plan.drawn && number('pool', 'pool at its foot')}
      </Section>
      {!plan.drawn && (
        <Section title="Runs" remark={plan.runs > 0 ? `${plan.runs} s on their way` : 'none has begun to run'}>
          <Scrub
            value={plan.runs}
            onDraft={(runs) => change({ ...plan, runs })}
            onCommit={(runs) => keep(`moment of the runs of ${plan.name}`, { ...plan, runs })}
          />
          {number('runs', 'heavy ones have run for')}
          {plan.runs > 0 && (
            <>
              {number('speed', 'running speed')}
              {number('trail', 'trail dries in')}
              {number('pull', 'gravity')}
              {number('blown', 'wind over them')}
            </>
          )}
        </Section>
      )}
      <Regions plan={plan} onDraft={change} onCommit={keep} />
      <Rules
        itemKey={itemKey}
        plan={plan}
        rules={plan.rules}
        asked={fresh('patina', { name: plan.name, uses: plan.uses, rules: plan.rules })}
        verb="form"
        empty="No rule: they form all over their surfaces."
        remark={plan.rules.length ? `${plan.rules.length} rules` : ''}
        onDraft={(rules) => change({ ...plan, rules })}
        onCommit={(label, rules) => keep(label, { ...plan, rules })}
      />
      <HandList target={itemKey} />
      <Button color="error" onClick={remove}>
        Delete these beads
      </Button>
    </>
  );
}

/** As measured on the bucket of Lantern, from as near as in the picture. */
const SHAPED =
  'Each a body that bends light, none alike: 0.8 M triangles on the bucket shown at the left, 30 MB; a good proof takes 70 s.';
const DRAWN =
  'Relief and gloss in the surface: no triangles, one picture of 8 MB for all; the same proof takes 38 s. They bend no light, and do not run.';

const NAMES = { ball: 'a ball', box: 'a box' };

/** Balls and boxes they stay inside of. */
function Regions({
  plan,
  onDraft,
  onCommit,
}: {
  plan: Beads;
  onDraft: (plan: Beads) => void;
  onCommit: (label: string, plan: Beads) => void;
}) {
  const middle = usePlateMiddle();
  const put = (at: number, region: Region | null) => ({
    ...plan,
    regions: plan.regions.flatMap((r, k) => (k !== at ? [r] : region ? [region] : [])),
  });
  const field = (at: number, region: Region, name: 'width' | 'height' | 'depth' | 'soft', label: string) => (
    <Field
      model="Region"
      field={name}
      label={label}
      value={region[name]}
      onDraft={(v) => onDraft(put(at, { ...region, [name]: v }))}
      onCommit={(v) => onCommit(`${label} of a region of ${plan.name}`, put(at, { ...region, [name]: v }))}
    />
  );
  return (
    <Section title="Only inside" remark={plan.regions.length ? '' : 'anywhere on their surfaces'}>
      {plan.regions.map((region, at) => (
        <Box key={at} sx={{ mb: 1 }}>
          <Select
            variant="standard"
            value={region.shape}
            inputProps={{ 'aria-label': `Shape of region ${at + 1}` }}
            onChange={(e) =>
              onCommit(`shape of a region of ${plan.name}`, put(at, { ...region, shape: e.target.value }))
            }
            sx={{ fontSize: 12.5 }}
          >
            {Object.entries(NAMES).map(([shape, name]) => (
              <MenuItem key={shape} value={shape}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <Button onClick={() => onCommit(`move a region of ${plan.name}`, put(at, { ...region, centre: middle() }))}>
            Move it to the middle of the view
          </Button>
          <Button color="inherit" onClick={() => onCommit(`take a region off ${plan.name}`, put(at, null))}>
            ×
          </Button>
          {field(at, region, 'width', 'across')}
          {region.shape === 'box' && field(at, region, 'height', 'height')}
          {region.shape === 'box' && field(at, region, 'depth', 'north to south')}
          {field(at, region, 'soft', 'soft border')}
        </Box>
      ))}
      <Button
        onClick={() =>
          onCommit(`a region for ${plan.name}`, {
            ...plan,
            regions: [...plan.regions, { ...(defaults('Region') as Region), centre: middle() }],
          })
        }
      >
        + region in the middle of the view
      </Button>
    </Section>
  );
}
