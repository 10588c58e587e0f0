import { Box, Button, Typography } from '@mui/material';
import { useEffects } from '../state/derived';
import { useSite } from '../state/site';
import { ink } from '../theme';

/** Why an item shows nothing, and the one step that cures it. */
export function Reason({ itemKey }: { itemKey: string }) {
  const effect = useEffects()[itemKey];
  const commit = useSite((s) => s.commit);
  const plan = useSite((s) => s.items[itemKey]?.plan);
  if (!plan) return null;
  if (!plan.visible)
    return (
      <Box role="note" sx={note}>
        <Typography>This item is hidden.</Typography>
        <Button onClick={() => commit(`show ${plan.name}`, [{ key: itemKey, plan: { ...plan, visible: true } }])}>
          Show it
        </Button>
      </Box>
    );
  if (!effect?.reason) return null;
  return (
    <Box role="note" sx={note}>
      <Typography>Nothing to see yet. {effect.reason}</Typography>
      {effect.plan && (
        <Button
          variant="outlined"
          color="warning"
          onClick={() => commit(effect.cure, [{ key: itemKey, plan: effect.plan }])}
        >
          {effect.cure.charAt(0).toUpperCase() + effect.cure.slice(1)}
        </Button>
      )}
    </Box>
  );
}

const note = {
  bgcolor: ink.ochrePale,
  borderLeft: `3px solid ${ink.ochre}`,
  px: 1,
  py: 0.75,
  mb: 1.5,
  display: 'flex',
  flexDirection: 'column',
  alignItems: 'flex-start',
  gap: 0.5,
};
