import { Box, Button, Checkbox, Tooltip, Typography } from '@mui/material';
import { useRef, useState } from 'react';
import type { PlanOf, Rule } from '../../api/client';
import { useBenchParts } from '../../state/bench';
import { useEffects } from '../../state/derived';
import { newKey, useSite } from '../../state/site';
import { ink, serif } from '../../theme';
import { Field } from '../../ui/Field';
import { Reason } from '../../ui/Reason';
import { Rules } from '../../ui/Rules';
import { MaskButton } from '../../ui/MaskButton';
import { MaterialSelect, SURFACES } from '../../ui/MaterialSelect';
import { InWeather } from '../../ui/InWeather';
import { Section } from '../../ui/Section';
import { Tint } from '../../ui/Tint';
import { SurfaceMenu, useCarriers, useGrown } from '../../ui/Surfaces';
import { HoldButton } from '../../ui/HoldButton';
import { HandList } from '../../ui/HandList';
import { ToolRow } from '../../ui/Tools';
import { useItem } from '../../ui/useItem';
import { freeName } from '../../state/fresh';
import { MaterialPicture } from '../../ui/MaterialPicture';
import { Dials } from './Dials';
import { Exchange } from './Exchange';
import { TableButton } from './Table';
import { exchanged } from './uses';
import { MOST_LAYERS } from '../../plate/surfaceShader';

/** So many rules of its own a surface may have. */
const MOST_OWN = 4;

export function PatinaSheet({ itemKey }: { itemKey: string }) {
  const { plan: edited, change, giveUp, keep, remove } = useItem(itemKey, 'patina');
  const { view, set } = useBenchParts('view', 'set');
  const effect = useEffects()[itemKey];
  const commit = useSite((s) => s.commit);
  const items = useSite((s) => s.items);
  const select = useSite((s) => s.select);
  const [picked, setPicked] = useState<string[]>([]);
  const seenIn = useRef(view);
  // What is only looked at is a draft the plate alone follows: the sheet stays as it is, with the button that is held.
  const [looking, setLooking] = useState(false);
  const plan = looking ? (items[itemKey]?.plan as PlanOf<'patina'> | undefined) : edited;
  if (!plan) return null;
  const look = (next: PlanOf<'patina'>) => {
    setLooking(true);
    change(next);
  };
  const lookAway = () => {
    setLooking(false);
    giveUp();
  };
  const finish = (field: keyof PlanOf<'patina'>['finish'], label: string) => (
    <Field
      model="Finish"
      field={field}
      label={label}
      value={plan.finish[field] as number}
      onDraft={(v) => change({ ...plan, finish: { ...plan.finish, [field]: v } })}
      onCommit={(v) => keep(`${label} of ${plan.name}`, { ...plan, finish: { ...plan.finish, [field]: v } })}
    />
  );
  // The measure stands in for the patina for a moment, as its mask: nothing of it is kept.
  const showMeasure = (rule: Rule | null) => {
    if (rule) seenIn.current = view;
    set({ view: rule ? 'mask' : seenIn.current });
    if (rule) look({ ...plan, amount: 1, pace: 0, rules: [rule] });
    else lookAway();
  };
  const surfaces = picked.filter((ref) => plan.uses.some((use) => use.surface === ref));
  const chosen = surfaces.length ? surfaces : plan.uses.map((use) => use.surface);
  const split = (along: string[]) => {
    const key = newKey('patina');
    const copy = { ...plan, name: freeName(items, `${plan.name}, copy`), order: plan.order + 0.5, uses: [] };
    const edits = along.length ? exchanged({ key: itemKey, plan }, { key, plan: copy }, along) : [{ key, plan: copy }];
    commit(`split off a copy of ${plan.name}`, edits);
    select(key);
  };
  return (
    <>
      <Carriers itemKey={itemKey} plan={plan} picked={surfaces} onPick={setPicked} onCommit={keep} onDraft={change} />
      <Box sx={{ mb: 1 }}>
        <SurfaceMenu
          word="+ surface"
          grown
          chosen={plan.uses.map((u) => u.surface)}
          onChange={(refs) =>
            keep(`surfaces of ${plan.name}`, {
              ...plan,
              uses: refs.map((surface) => plan.uses.find((u) => u.surface === surface) ?? { surface, amount: 1 }),
            })
          }
        />
        <Tooltip
          title={
            surfaces.length
              ? 'The ticked surfaces carry an independent copy from now on. Changes to one no longer show on the other.'
              : 'An independent copy of this patina, lying on nothing yet. Tick surfaces above to take them along.'
          }
        >
          <Button onClick={() => split(surfaces)}>{surfaces.length ? 'Only on these' : 'Split off a copy'}</Button>
        </Tooltip>
        <Exchange from={{ key: itemKey, plan }} surfaces={chosen} />
        <TableButton />
        <Button onClick={() => select(null)}>Begin another kind</Button>
      </Box>
      <ToolRow
        tools={[
          { tool: 'look', label: 'Look', help: 'Drag turns the view, right button moves it, wheel goes nearer' },
          { tool: 'more', label: 'Paint', help: 'Paint more of it onto a surface (P)' },
          { tool: 'less', label: 'Thin', help: 'Wipe it away by hand (T)' },
          { tool: 'erase', label: 'Erase', help: 'Leave nothing under the brush' },
        ]}
      />
      <Reason itemKey={itemKey} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, mb: 0.5 }}>
        <MaskButton />
        <HoldButton
          help="Hold to see the plate without this patina"
          onHold={() => look({ ...plan, amount: 0 })}
          onLetGo={lookAway}
        >
          Hold: without it
        </HoldButton>
      </Box>
      <Typography sx={{ mb: 1, fontSize: 12, color: 'text.secondary' }}>
        {effect &&
        (effect.amount > 0 || !plan.uses.every((use) => items[use.surface.split('/')[0]]?.plan.kind === 'drift'))
          ? `covers ${(effect.amount * 100).toFixed(1)} % of its surfaces`
          : ''}
      </Typography>
      <Dials plan={plan} onDraft={change} onCommit={keep} />
      <Rules
        itemKey={itemKey}
        plan={plan}
        rules={plan.rules}
        asked={plan}
        verb="gathers"
        onShow={showMeasure}
        remark={plan.rules.length === 1 ? 'one rule' : `${plan.rules.length} rules`}
        onDraft={(rules) => change({ ...plan, rules })}
        onCommit={(label, rules) => keep(label, { ...plan, rules })}
      />
      {surfaces.length === 1 && (
        <OnOne itemKey={itemKey} plan={plan} surface={surfaces[0]} onDraft={change} onCommit={keep} />
      )}
      <Section title="What it looks like">
        <MaterialSelect
          label="Material of the patina"
          value={plan.finish.material}
          kinds={SURFACES}
          onChosen={(material) => keep(`material of ${plan.name}`, { ...plan, finish: { ...plan.finish, material } })}
        />
        <Tint
          label="tint, multiplied with the material’s own colour"
          value={plan.finish.tint}
          onDraft={(tint) => change({ ...plan, finish: { ...plan.finish, tint } })}
          onCommit={(tint) => keep(`tint of ${plan.name}`, { ...plan, finish: { ...plan.finish, tint } })}
        />
        {finish('scale', 'pattern size')}
        {finish('variation', 'light and dark')}
        {finish('variation_size', 'width of a patch')}
        {finish('break_up', 'broken edge')}
        {finish('fill', 'tops first – hollows first')}
        {finish('thickness', 'thickness')}
        {finish('body', 'shoots and flakes near by')}
        {finish('stain', 'lies on top – stains')}
        {finish('roughness', 'roughness')}
        {finish('relief', 'relief')}
      </Section>
      <InWeather
        model="Finish"
        value={plan.finish}
        onDraft={(next) => change({ ...plan, finish: { ...plan.finish, ...next } })}
        onCommit={(label, next) => keep(`${label}: ${plan.name}`, { ...plan, finish: { ...plan.finish, ...next } })}
      />
      <HandList target={itemKey} />
      <Button color="error" onClick={remove}>
        Delete this patina
      </Button>
    </>
  );
}

/** Rules of its own for the one surface that is ticked. */
function OnOne({
  itemKey,
  plan,
  surface,
  onCommit,
  onDraft,
}: {
  itemKey: string;
  plan: PlanOf<'patina'>;
  surface: string;
  onCommit: (label: string, plan: PlanOf<'patina'>) => void;
  onDraft: (plan: PlanOf<'patina'>) => void;
}) {
  const label = useCarriers().find((s) => s.ref === surface)?.label ?? surface;
  const use = plan.uses.find((u) => u.surface === surface)!;
  const put = (rules: Rule[]) => ({ ...plan, uses: plan.uses.map((u) => (u === use ? { ...u, rules } : u)) });
  const rules = (use.rules ?? []) as Rule[];
  return (
    <Rules
      itemKey={itemKey}
      plan={plan}
      rules={rules}
      asked={{ ...plan, uses: [use] }}
      title={`Only on ${label}`}
      verb="gathers"
      empty="No rule of its own: there it gathers as on the others. A rule here counts on this surface alone."
      most={MOST_OWN}
      remark={rules.length ? `${rules.length} of its own` : ''}
      onDraft={(next) => onDraft(put(next))}
      onCommit={(what, next) => onCommit(what, put(next))}
    />
  );
}

/** The surfaces that carry the patina: sharing is plain. */
function Carriers({
  itemKey,
  plan,
  picked,
  onPick,
  onCommit,
  onDraft,
}: {
  itemKey: string;
  plan: PlanOf<'patina'>;
  picked: string[];
  onPick: (refs: string[]) => void;
  onCommit: (label: string, plan: PlanOf<'patina'>) => void;
  onDraft: (plan: PlanOf<'patina'>) => void;
}) {
  const [surfaces, scattered] = [useCarriers(), useGrown()];
  const onGrown = plan.uses.some((use) => scattered.some((s) => s.ref === use.surface));
  const { undrawn } = useBenchParts('undrawn');
  const turned = (ref: string, amount: number) => ({
    ...plan,
    uses: plan.uses.map((u) => (u.surface === ref ? { ...u, amount } : u)),
  });
  return (
    <Box sx={{ bgcolor: ink.waterPale, borderLeft: `3px solid ${ink.water}`, p: 1, mb: 1 }}>
      <Typography sx={{ fontFamily: serif, fontSize: 14 }}>
        {plan.uses.length === 0
          ? 'On no surface yet.'
          : plan.uses.length === 1
            ? 'On one surface. A change shows only there.'
            : `Shared by ${plan.uses.length} surfaces. A change shows on all of them.`}
      </Typography>
      {undrawn[itemKey]?.length > 0 && (
        <Typography role="status" sx={{ fontSize: 12, color: 'warning.main' }}>
          Not drawn in the plate on{' '}
          {undrawn[itemKey].map((ref) => surfaces.find((s) => s.ref === ref)?.label ?? ref).join(', ')}: as many as{' '}
          {MOST_LAYERS} others lie over it there. Proofs show it.
        </Typography>
      )}
      {onGrown && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          On what is scattered the plate and hand-overs show the mean of all of a kind, as a colour; proofs show each by
          itself.
        </Typography>
      )}
      <Box sx={{ maxHeight: 152, overflowY: 'auto', mt: 0.5 }}>
        {plan.uses.map((use) => {
          const found = surfaces.find((s) => s.ref === use.surface);
          return (
            <Box key={use.surface} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
              <Checkbox
                size="small"
                sx={{ p: 0 }}
                checked={picked.includes(use.surface)}
                onChange={() =>
                  onPick(
                    picked.includes(use.surface)
                      ? picked.filter((ref) => ref !== use.surface)
                      : [...picked, use.surface],
                  )
                }
                slotProps={{ input: { 'aria-label': `Tick ${found?.label ?? use.surface}` } }}
              />
              {found && <MaterialPicture id={found.material} style={{ width: 18, height: 18 }} />}
              <Box sx={{ flex: 1, minWidth: 0 }}>
                <Field
                  bare
                  model="PatinaUse"
                  field="amount"
                  label={found?.label ?? `${use.surface}, gone`}
                  value={use.amount}
                  onDraft={(v) => onDraft(turned(use.surface, v))}
                  onCommit={(v) =>
                    onCommit(`${plan.name} only on ${found?.label ?? use.surface}`, turned(use.surface, v))
                  }
                />
              </Box>
              <Button
                color="inherit"
                aria-label={`Take ${plan.name} off ${found?.label ?? use.surface}`}
                sx={{ px: 0.5, lineHeight: 1 }}
                onClick={() =>
                  onCommit(`take ${plan.name} off ${found?.label ?? use.surface}`, {
                    ...plan,
                    uses: plan.uses.filter((u) => u.surface !== use.surface),
                  })
                }
              >
                ×
              </Button>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
