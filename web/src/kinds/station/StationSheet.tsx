import { Box, Button, Typography } from '@mui/material';
import { numbersOf } from '../../ui/numbers';
import { Section } from '../../ui/Section';
import { useItem } from '../../ui/useItem';
import { usePlateScene } from '../../state/plate';
import { useSite } from '../../state/site';
import { mono } from '../../theme';
import { inOrder, movedTo } from './order';

const place = (at: readonly number[]) => at.map((v) => v.toFixed(2)).join(', ');

/** A saved camera: its lens, where it stands, its place in the row. */
export function StationSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep, remove } = useItem(itemKey, 'station');
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const scene = usePlateScene((s) => s.scene);
  if (!plan) return null;
  const number = numbersOf('StationPlan', plan, plan.name, change, keep);
  const list = inOrder(items);
  const at = list.findIndex(({ key }) => key === itemKey);
  const move = (to: number) => commit(`order of ${plan.name}`, movedTo(list, at, to));
  return (
    <>
      <Section title="Where" remark={`${at + 1} of ${list.length}`}>
        <Box sx={{ display: 'grid', gridTemplateColumns: '70px 1fr', rowGap: 0.25 }}>
          <Typography sx={{ fontSize: 12.5 }}>eye, m</Typography>
          <Typography sx={{ fontFamily: mono, fontSize: 12 }}>{place(plan.position)}</Typography>
          <Typography sx={{ fontSize: 12.5 }}>looks at, m</Typography>
          <Typography sx={{ fontFamily: mono, fontSize: 12 }}>{place(plan.target)}</Typography>
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          <Button variant="outlined" onClick={() => scene?.eye.lookFrom(plan)}>
            Look from it
          </Button>
          <Button
            variant="outlined"
            disabled={!scene}
            onClick={() => scene && keep(`aim of ${plan.name}`, { ...plan, ...scene.eye.aim() })}
          >
            Aim it as the plate looks now
          </Button>
        </Box>
      </Section>
      <Section title="Lens">{number('lens', 'focal length')}</Section>
      <Section title="Place in the row">
        <Button disabled={at <= 0} onClick={() => move(at - 1)}>
          Earlier
        </Button>
        <Button disabled={at >= list.length - 1} onClick={() => move(at + 1)}>
          Later
        </Button>
      </Section>
      <Button color="error" disabled={list.length < 2} onClick={remove}>
        Delete this station
      </Button>
    </>
  );
}
