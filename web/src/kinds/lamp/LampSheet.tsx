import { Box, Button } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { usePlateScene } from '../../state/plate';
import { numbersOf } from '../../ui/numbers';
import { Section } from '../../ui/Section';
import { useItem } from '../../ui/useItem';
import { ink } from '../../theme';

/** What lamps are like, with the light they give, lumen, and its colour, kelvin. */
const usual: [string, Pick<PlanOf<'lamp'>, 'lumens' | 'temperature' | 'radius'>][] = [
  ['candle', { lumens: 12, temperature: 1900, radius: 0.01 }],
  ['oil lamp', { lumens: 60, temperature: 2000, radius: 0.02 }],
  ['bulb', { lumens: 800, temperature: 2700, radius: 0.04 }],
  ['street lamp', { lumens: 8000, temperature: 2200, radius: 0.12 }],
  ['floodlight', { lumens: 30_000, temperature: 5000, radius: 0.2 }],
];

export function LampSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'lamp');
  const scene = usePlateScene((s) => s.scene);
  if (!plan) return null;
  const number = numbersOf('LampPlan', plan, plan.name, change, keep);
  const toMiddle = () => {
    const [x, y, z] = scene?.eye.sight().target ?? plan.position;
    keep(`move ${plan.name}`, {
      ...plan,
      position: [x, y, z].map((v) => Number(v.toFixed(3))) as [number, number, number],
    });
  };
  return (
    <>
      <Section title="Light">
        {number('lumens', 'light')}
        {number('temperature', 'colour temperature')}
        {number('radius', 'radius of what shines')}
      </Section>
      <Section title="As bright as">
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75 }}>
          {usual.map(([name, like]) => {
            const is = like.lumens === plan.lumens && like.temperature === plan.temperature;
            return (
              <Button
                key={name}
                variant="outlined"
                aria-pressed={is}
                sx={is ? { bgcolor: ink.waterPale } : {}}
                onClick={() => keep(`${plan.name} as a ${name}`, { ...plan, ...like })}
              >
                {name}
              </Button>
            );
          })}
        </Box>
      </Section>
      <Section title="Place" remark={plan.position.map((v) => v.toFixed(2)).join(' · ') + ' m'}>
        <Button onClick={toMiddle}>Put it in the middle of the view</Button>
      </Section>
      <Button color="error" onClick={remove}>
        Delete this lamp
      </Button>
    </>
  );
}
