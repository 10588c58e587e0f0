import { Box, Button, Typography } from '@mui/material';
import type { ItemPlan, PlanOf } from '../api/client';
import { isHand, type Hand } from '../state/hand';
import { useSite, type Item } from '../state/site';
import { mono } from '../theme';
import { numbersOf } from './numbers';
import { Fold } from './Fold';

/** Everything the hand did to an item, in order. */
export function handOf(items: Record<string, Item>, target: string): { key: string; plan: Hand }[] {
  return Object.values(items)
    .filter((i) => isHand(i.plan) && i.plan.target === target)
    .map((i) => ({ key: i.key, plan: i.plan as Hand }))
    .sort((a, b) => a.plan.order - b.plan.order);
}

const word = (plan: Hand): string => {
  if (plan.kind === 'touch')
    return `${{ more: 'painted', less: 'thinned', erase: 'erased', lay: 'laid', raise: 'raised', lower: 'lowered', smooth: 'smoothed', flatten: 'flattened', roughen: 'roughened', erode: 'eroded' }[plan.action]} with ${plan.radius.toFixed(2)} m`;
  if (plan.kind === 'placed') return plan.name;
  if (plan.kind === 'line') return `along a line of ${plan.points.length} points`;
  return plan.name;
};

/** Hand work on an item: each listed, hidden or cleared by itself; it stays when rules change. */
export function HandList({ target }: { target: string }) {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const draft = useSite((s) => s.draft);
  const hand = handOf(items, target);
  if (!hand.length) return null;
  const clear = (label: string, some: typeof hand) =>
    commit(
      label,
      some.map((h) => ({ key: h.key, plan: null })),
    );
  return (
    <Fold
      title="By hand"
      remark={`${hand.length} ${hand.length === 1 ? 'touch' : 'touches'}`}
      open={hand.length <= 3 || hand.some((h) => h.plan.kind === 'line')}
    >
      <Box role="region" aria-label="By hand">
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          They stay when rules, density or the ground change.
        </Typography>
        <Box sx={{ maxHeight: 190, overflowY: 'auto' }}>
          {hand.map(({ key, plan }) => (
            <Box key={key} sx={{ opacity: plan.visible ? 1 : 0.5 }}>
              <Box sx={{ display: 'flex', alignItems: 'center' }}>
                <Typography sx={{ flex: 1, fontSize: 12 }}>{word(plan)}</Typography>
                <Button
                  color="inherit"
                  aria-label={`${plan.visible ? 'Leave out' : 'Count again'}: ${word(plan)}`}
                  sx={{ px: 0.5, fontSize: 11 }}
                  onClick={() =>
                    commit(`${plan.visible ? 'leave out' : 'count'} ${word(plan)}`, [
                      { key, plan: { ...plan, visible: !plan.visible } as ItemPlan },
                    ])
                  }
                >
                  {plan.visible ? 'leave out' : 'count'}
                </Button>
                <Button
                  color="inherit"
                  aria-label={`Clear ${word(plan)}`}
                  sx={{ px: 0.5, lineHeight: 1 }}
                  onClick={() => clear(`clear ${word(plan)}`, [{ key, plan }])}
                >
                  ×
                </Button>
              </Box>
              {plan.kind === 'line' && (
                <LineSettings
                  plan={plan}
                  onDraft={(next) => draft(key, next)}
                  onCommit={(label, next) => commit(label, [{ key, plan: next }])}
                />
              )}
            </Box>
          ))}
        </Box>
        <Button onClick={() => clear('clear the last touch', hand.slice(-1))}>Clear the last</Button>
        <Button onClick={() => clear('clear all touches', hand)}>Clear all</Button>
      </Box>
    </Fold>
  );
}

function LineSettings({
  plan,
  onDraft,
  onCommit,
}: {
  plan: PlanOf<'line'>;
  onDraft: (p: PlanOf<'line'>) => void;
  onCommit: (label: string, p: PlanOf<'line'>) => void;
}) {
  const number = numbersOf('LinePlan', plan, plan.name, onDraft, onCommit);
  const tick = (field: 'both_sides' | 'face_along' | 'closed', label: string) => (
    <Box component="label" sx={{ fontSize: 12, fontFamily: mono, mr: 1.5 }}>
      <input
        type="checkbox"
        checked={plan[field]}
        onChange={(e) => onCommit(`${label}, ${plan.name}`, { ...plan, [field]: e.target.checked })}
      />{' '}
      {label}
    </Box>
  );
  return (
    <Box sx={{ pl: 1.5, mb: 0.5 }}>
      {number('spacing', 'spacing')}
      {number('count', 'number, 0 by spacing')}
      {number('offset', 'offset to the right')}
      {number('jitter', 'strays by')}
      {tick('both_sides', 'both sides')}
      {tick('face_along', 'face along')}
      {tick('closed', 'closed')}
    </Box>
  );
}
