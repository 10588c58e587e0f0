import { Box, Button, Checkbox, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { useManifest } from '../../state/derived';
import { useSite } from '../../state/site';
import { numbersOf } from '../../ui/numbers';
import { MaskButton } from '../../ui/MaskButton';
import { MaterialSelect } from '../../ui/MaterialSelect';
import { InWeather } from '../../ui/InWeather';
import { Section } from '../../ui/Section';
import { Tint } from '../../ui/Tint';
import { useItem } from '../../ui/useItem';
import { MaterialPicture } from '../../ui/MaterialPicture';

export function DecalSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'decal');
  const manifest = useManifest().data;
  const items = useSite((s) => s.items);
  if (!plan) return null;
  const number = numbersOf('DecalPlan', plan, plan.name, change, keep);
  const owners = (manifest?.owners ?? []).map((o) => o.owner);
  const name = (owner: string) => (owner === 'ground' ? 'ground' : (items[owner]?.plan.name ?? owner));
  const all = !plan.only && plan.receivers.length === 0;
  const chosen = all ? owners : plan.receivers;
  const toggle = (owner: string): PlanOf<'decal'> => ({
    ...plan,
    // Once something is chosen only that receives it, and nothing where the last is taken away.
    only: true,
    receivers: chosen.includes(owner) ? chosen.filter((r) => r !== owner) : [...chosen, owner],
  });
  const aspect = manifest?.materials[plan.picture]?.aspect ?? 1;
  const kept = Math.abs(plan.width / plan.height - aspect) < 0.005;
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
              disabled={kept}
              onClick={() =>
                keep(`proportions of ${plan.name}`, { ...plan, height: Number((plan.width / aspect).toFixed(4)) })
              }
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
        remark={all ? 'everything in its box' : chosen.length ? `${chosen.length} receive it` : 'nothing receives it'}
      >
        <Box sx={{ maxHeight: 150, overflowY: 'auto' }}>
          {owners.map((owner) => (
            <Box key={owner} component="label" sx={{ display: 'flex', alignItems: 'center' }}>
              <Checkbox
                size="small"
                sx={{ p: 0.25 }}
                checked={chosen.includes(owner)}
                onChange={() => keep(`receivers of ${plan.name}`, toggle(owner))}
              />
              <Typography sx={{ fontSize: 12 }}>{name(owner)}</Typography>
            </Box>
          ))}
        </Box>
        {!all && (
          <Button onClick={() => keep(`receivers of ${plan.name}`, { ...plan, only: false, receivers: [] })}>
            Everything in its box
          </Button>
        )}
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
