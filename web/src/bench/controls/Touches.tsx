import { Button, Typography } from '@mui/material';
import { itemsOf, useSite } from '../../state/site';
import { Section } from './Section';

/** Hand strokes of an item: how many there are, and a way to take back the last or all. */
export function Touches({ itemKey }: { itemKey: string }) {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const strokes = itemsOf(items, 'touch').filter((t) => t.plan.target === itemKey).sort((a, b) => a.plan.order - b.plan.order);
  if (!strokes.length) return null;
  const more = strokes.filter((t) => t.plan.action === 'more').length;
  return (
    <Section title="By hand" remark={`${strokes.length} stroke${strokes.length === 1 ? '' : 's'}`}>
      <Typography sx={{ fontSize: 12 }}>{more} painted, {strokes.length - more} thinned. They stay when rules change.</Typography>
      <Button onClick={() => commit('clear the last stroke', [{ key: strokes[strokes.length - 1].key, plan: null }])}>Clear the last</Button>
      <Button onClick={() => commit('clear all strokes', strokes.map((t) => ({ key: t.key, plan: null })))}>Clear all</Button>
    </Section>
  );
}
