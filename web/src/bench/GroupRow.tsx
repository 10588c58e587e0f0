import { Box, Button, ButtonBase, Tooltip, Typography } from '@mui/material';
import { atRest, useBenchParts } from '../state/bench';
import { useSite, type Item } from '../state/site';
import { ink, mono } from '../theme';

/** A group in the course: chosen, hidden and locked as one; its pieces are listed under it, and move together. */
export function GroupRow({ group, members }: { group: string; members: Item[] }) {
  const commit = useSite((s) => s.commit);
  const select = useSite((s) => s.select);
  const selected = useSite((s) => s.selected);
  const { together, set } = useBenchParts('together', 'set');
  const shown = members.some(({ plan }) => plan.visible);
  const locked = members.every(({ plan }) => plan.locked);
  const on = together === group && members.some(({ key }) => key === selected);
  const all = (label: string, change: { visible?: boolean; locked?: boolean }) =>
    commit(
      `${label} ${group}`,
      members.map(({ key, plan }) => ({ key, plan: { ...plan, ...change } })),
    );
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', pl: 1, bgcolor: on ? ink.waterPale : 'transparent' }}>
      <Tooltip title="Hold the group together: what is done to the place of one is done to all">
        <ButtonBase
          aria-pressed={on}
          aria-label={`Group ${group}`}
          onClick={() => {
            set({ ...atRest, sheetOpen: true, together: group });
            if (!members.some(({ key }) => key === selected)) select(members[0].key);
          }}
          sx={{ flex: 1, py: 0.3, gap: 0.75, justifyContent: 'flex-start', minWidth: 0 }}
        >
          <Typography sx={{ flex: 1, textAlign: 'left', fontSize: 12, fontStyle: 'italic' }}>{group}</Typography>
          <Typography sx={{ fontFamily: mono, fontSize: 10.5 }}>{members.length}</Typography>
        </ButtonBase>
      </Tooltip>
      <Button
        color="inherit"
        sx={{ fontSize: 10.5, px: 0.5 }}
        onClick={() => all(locked ? 'unlock' : 'lock', { locked: !locked })}
      >
        {locked ? 'unlock' : 'lock'}
      </Button>
      <Button
        color="inherit"
        sx={{ fontSize: 10.5, px: 0.5 }}
        onClick={() => all(shown ? 'hide' : 'show', { visible: !shown })}
      >
        {shown ? 'hide' : 'show'}
      </Button>
    </Box>
  );
}
