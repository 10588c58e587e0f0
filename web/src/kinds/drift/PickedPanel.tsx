import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { changePicked } from './edits';
import { ThingPicker } from './picking';
import { useAssets } from '../../state/derived';
import { useBenchParts } from '../../state/bench';
import { usePlateScene } from '../../state/plate';
import { ink } from '../../theme';

/** What can be done with the picked things of a drift. */
export function PickedPanel({ itemKey, plan }: { itemKey: string; plan: PlanOf<'drift'> }) {
  const { picked, tool, set } = useBenchParts('picked', 'tool', 'set');
  const assets = useAssets();
  const scene = usePlateScene((s) => s.scene);
  if (!picked || picked.drift !== itemKey)
    return tool === 'pick' || tool === 'lasso' ? (
      <Typography sx={{ fontSize: 12, mb: 1, color: 'text.secondary' }}>
        {tool === 'pick'
          ? 'Click one, or drag a box over several; Shift adds. Drag a picked one to move all.'
          : 'Draw around what is to be picked.'}
      </Typography>
    ) : null;
  const count = picked.identities.length;
  const act = (label: string, change: Partial<PlanOf<'edit'>>, keepPicked = true) => {
    changePicked(picked, `${label} ${count} of ${plan.name}`, change);
    if (!keepPicked) set({ picked: null });
  };
  return (
    <Box
      role="region"
      aria-label="Picked"
      sx={{ bgcolor: ink.waterPale, borderLeft: `3px solid ${ink.water}`, px: 1, py: 0.75, mb: 1.5 }}
    >
      <Typography sx={{ fontWeight: 500 }}>{count} picked</Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 0.5 }}>
        <Button onClick={() => act('turn', { turn: 15 })}>Turn 15° ( . )</Button>
        <Button onClick={() => act('enlarge', { size: 1.1 })}>Larger ( = )</Button>
        <Button onClick={() => act('shrink', { size: 0.909 })}>Smaller ( - )</Button>
        <Button onClick={() => act('pin', { action: 'pin' })}>Pin</Button>
        <Button onClick={() => scene && set({ picked: new ThingPicker(scene).alike(picked) })}>All alike</Button>
        <Button color="error" onClick={() => act('take away', { action: 'remove' }, false)}>
          Take away (Del)
        </Button>
        <Button color="inherit" onClick={() => set({ picked: null })}>
          Let go
        </Button>
      </Box>
      {plan.assets.length > 1 && (
        <Select
          variant="standard"
          displayEmpty
          value=""
          onChange={(e) => act('replace', { asset: e.target.value })}
          inputProps={{ 'aria-label': 'Replace by' }}
          sx={{ fontSize: 12 }}
        >
          <MenuItem value="" disabled>
            replace by…
          </MenuItem>
          {plan.assets.map((a) => (
            <MenuItem key={a.asset} value={a.asset}>
              {assets.find((x) => x.id === a.asset)?.title ?? a.asset}
            </MenuItem>
          ))}
        </Select>
      )}
    </Box>
  );
}
