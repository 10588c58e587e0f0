import { Button, Menu, MenuItem, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { PlanOf } from '../../api/client';
import { itemsOf, useSite } from '../../state/site';
import { numbersOf } from '../../ui/numbers';
import { Section } from '../../ui/Section';
import { Tint } from '../../ui/Tint';
import { useItem } from '../../ui/useItem';
import { growsIn, kitGrasses, removeGrass, sowInto } from './ownGrass';
import { Portrait } from './Portrait';
import { useDropMenu } from '../../ui/dropMenu';

type Grass = PlanOf<'grass'>;
type Tone = 'root_colour' | 'tip_colour' | 'dry_colour' | 'head_colour';

/** A grass of one's own: how its blades grow and look, in every drift it stands in. */
export function GrassSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep } = useItem(itemKey, 'grass');
  const items = useSite((s) => s.items);
  const select = useSite((s) => s.select);
  if (!plan) return null;
  const number = numbersOf('GrassPlan', plan, plan.name, change, keep);
  const drifts = growsIn(items, itemKey);
  const tone = (field: Tone, label: string) => (
    <Tint
      label={label}
      value={plan[field]}
      onDraft={(tone) => change({ ...plan, [field]: tone })}
      onCommit={(tone) => keep(`${label} of ${plan.name}`, { ...plan, [field]: tone })}
    />
  );
  return (
    <>
      <Portrait itemKey={itemKey} length={plan.length} />
      <Section title="Grows in" remark={drifts.length === 1 ? '1 drift' : `${drifts.length} drifts`}>
        {drifts.map((d) => (
          <Button key={d.key} onClick={() => select(d.key)}>
            ← {d.plan.name}
          </Button>
        ))}
        <IntoDrift grass={itemKey} used={drifts.map((d) => d.key)} />
      </Section>
      <Section
        title="Blades"
        remark={<BeginAs plan={plan} onTake={(next) => keep(`${plan.name} begun as another`, next)} />}
      >
        {number('length', 'length')}
        {number('root_width', 'width at the foot')}
        {number('tip_width', 'width at the tip')}
        {number('blades', 'blades in a tuft')}
        {number('foot', 'tuft wide at the foot')}
      </Section>
      <Section title="Growth">
        {number('bend', 'tips lean')}
        {number('curl', 'curl')}
        {number('clump', 'lean together')}
        {number('stiffness', 'stiff in the wind')}
        {number('seed', 'seed')}
      </Section>
      <Section title="Colour">
        {tone('root_colour', 'at the foot')}
        {tone('tip_colour', 'at the tip')}
        {number('dry', 'dry')}
        {plan.dry > 0 && tone('dry_colour', 'when dry')}
      </Section>
      <Section title="Flowering stems">
        {number('flower', 'in flower')}
        {plan.flower > 0 && number('head_width', 'width of the heads')}
        {plan.flower > 0 && tone('head_colour', 'heads')}
      </Section>
      <Button color="error" onClick={() => removeGrass(itemKey)}>
        {drifts.length
          ? `Delete this grass, out of ${drifts.length === 1 ? 'its drift' : `${drifts.length} drifts`} too`
          : 'Delete this grass'}
      </Button>
    </>
  );
}

/** Take over all settings of a grass of the kit. */
function BeginAs({ plan, onTake }: { plan: Grass; onTake: (next: Grass) => void }) {
  const { open, close, menu } = useDropMenu();
  const kit = useQuery({ queryKey: ['grasses'], staleTime: Infinity, queryFn: kitGrasses }).data ?? [];
  return (
    <>
      <Button onClick={open} sx={{ py: 0, fontSize: 11.5 }}>
        begin as…
      </Button>
      <Menu {...menu}>
        {kit.map((g) => (
          <MenuItem
            key={g.asset}
            dense
            onClick={() => {
              close();
              onTake({ ...g.plan, name: plan.name, note: plan.note, seed: plan.seed });
            }}
          >
            <Typography sx={{ flex: 1 }}>{g.plan.name}</Typography>
            <Typography sx={{ ml: 2, fontSize: 11, color: 'text.secondary' }}>
              {Math.round(g.plan.length * 100)} cm
            </Typography>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

function IntoDrift({ grass, used }: { grass: string; used: string[] }) {
  const { open, close, menu } = useDropMenu();
  const items = useSite((s) => s.items);
  const others = itemsOf(items, 'drift').filter((d) => !used.includes(d.key));
  return (
    <>
      {!used.length && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          In no drift yet: it shows in the plate once it is in the mix of one.
        </Typography>
      )}
      {others.length > 0 && <Button onClick={open}>+ into a drift</Button>}
      <Menu {...menu}>
        {others.map((d) => (
          <MenuItem
            key={d.key}
            dense
            onClick={() => {
              close();
              sowInto(d.key, grass);
            }}
          >
            {d.plan.name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
