import { Box, Button, Checkbox, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { useManifest } from '../../state/derived';
import { useSite } from '../../state/site';
import { numbersOf } from '../../bench/controls/numbers';
import { MaskButton } from '../../bench/controls/MaskButton';
import { MaterialSelect } from '../../bench/controls/MaterialSelect';
import { InWeather } from '../../bench/controls/InWeather';
import { Section } from '../../bench/controls/Section';
import { Tint } from '../../bench/controls/Tint';
import { useItem } from '../../bench/controls/useItem';
import { MaterialPicture } from '../../bench/MaterialPicture';

export function DecalSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'decal');
  const manifest = useManifest().data;
  const items = useSite((s) => s.items);
  if (!plan) return null;
  const number = numbersOf('DecalPlan', plan, plan.name, change, keep);
  const owners = (manifest?.owners ?? []).map((o) => o.owner);
  const name = (owner: string) => (owner === 'ground' ? 'ground' : (items[owner]?.plan.name ?? owner));
  const toggle = (owner: string): PlanOf<'decal'> => ({
    ...plan,
    receivers: plan.receivers.includes(owner) ? plan.receivers.filter((r) => r !== owner) : [...plan.receivers, owner],
  });
  return (
    <>
      <MaskButton />
      <Section title="Picture">
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          <MaterialPicture
            alt={`Picture of ${plan.name}`}
            id={plan.picture}
            side={128}
            style={{ width: 72, height: 72, background: '#bdb8ac', objectFit: 'cover' }}
          />
          <Box sx={{ flex: 1 }}>
            <MaterialSelect
              label="Picture"
              value={plan.picture}
              kinds={['decal']}
              onChosen={(picture) => keep(`picture of ${plan.name}`, { ...plan, picture })}
            />
            <Button
              disabled={plan.width === plan.height}
              onClick={() => keep(`proportions of ${plan.name}`, { ...plan, height: plan.width })}
            >
              Keep the picture’s proportions
            </Button>
          </Box>
        </Box>
      </Section>
      <Section title="How large" remark="drag the handles in the plate">
        {number('width', 'width')}
        {number('height', 'height')}
        {number('turn', 'turn')}
        {number('depth', 'depth')}
      </Section>
      <Section title="How it lies">
        <Tint
          value={plan.tint}
          onDraft={(tint) => change({ ...plan, tint })}
          onCommit={(tint) => keep(`tint of ${plan.name}`, { ...plan, tint })}
        />
        {number('opacity', 'opacity')}
        {number('angle', 'up to an angle of')}
        {number('soft', 'soft edge')}
      </Section>
      <Section
        title="On"
        remark={plan.receivers.length ? `${plan.receivers.length} receive it` : 'everything in its box'}
      >
        <Box sx={{ maxHeight: 150, overflowY: 'auto' }}>
          {owners.map((owner) => (
            <Box key={owner} component="label" sx={{ display: 'flex', alignItems: 'center' }}>
              <Checkbox
                size="small"
                sx={{ p: 0.25 }}
                checked={plan.receivers.length === 0 || plan.receivers.includes(owner)}
                onChange={() =>
                  keep(
                    `receivers of ${plan.name}`,
                    plan.receivers.length === 0
                      ? { ...plan, receivers: owners.filter((o) => o !== owner) }
                      : toggle(owner),
                  )
                }
              />
              <Typography sx={{ fontSize: 12 }}>{name(owner)}</Typography>
            </Box>
          ))}
        </Box>
      </Section>
      <InWeather
        model="DecalPlan"
        value={plan}
        onDraft={(next) => change({ ...plan, ...next })}
        onCommit={(label, next) => keep(`${label}: ${plan.name}`, { ...plan, ...next })}
      />
      <Button color="error" onClick={remove}>
        Delete this decal
      </Button>
    </>
  );
}
