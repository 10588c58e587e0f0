import { Box, Button, Tooltip } from '@mui/material';
import { useBench, type Tool } from '../../state/bench';
import { ink } from '../../theme';
import { Field } from './Field';

/** The tools of a step, in the sheet's top row; with a brush in hand, its size and strength. */
export function PaintTools({ words }: { words: { more: string; less: string } }) {
  const { tool, brush, set } = useBench();
  const entry = (name: Tool, label: string, help: string) => (
    <Tooltip title={help}>
      <Button aria-pressed={tool === name} onClick={() => set({ tool: tool === name ? 'look' : name })} sx={{ flex: 1, borderRadius: 0, border: `1px solid ${ink.line}`, ml: '-1px', bgcolor: tool === name ? ink.water : 'transparent', color: tool === name ? '#fff' : 'inherit', '&:hover': { bgcolor: tool === name ? ink.water : ink.waterPale } }}>{label}</Button>
    </Tooltip>
  );
  const painting = tool === 'more' || tool === 'less';
  return (
    <Box sx={{ mb: 1.5 }}>
      <Box sx={{ display: 'flex', pl: '1px' }}>
        {entry('look', 'Look', 'Drag turns the view, right button moves it, wheel goes nearer')}
        {entry('more', 'Paint', `${words.more} (P)`)}
        {entry('less', 'Thin', `${words.less} (T)`)}
      </Box>
      {painting && (
        <Box sx={{ pt: 0.75 }}>
          <Field model="TouchPlan" field="radius" label="brush radius" value={brush.radius} slider={{ min: 0.05, max: 8, curve: 2 }} onDraft={(radius) => set({ brush: { ...brush, radius } })} onCommit={(radius) => set({ brush: { ...brush, radius } })} />
          <Field model="TouchPlan" field="strength" label="strength" value={brush.strength} slider={{ min: 0, max: 1 }} onDraft={(strength) => set({ brush: { ...brush, strength } })} onCommit={(strength) => set({ brush: { ...brush, strength } })} />
          <Field model="TouchPlan" field="falloff" label="falloff" value={brush.falloff} slider={{ min: 0, max: 1 }} onDraft={(falloff) => set({ brush: { ...brush, falloff } })} onCommit={(falloff) => set({ brush: { ...brush, falloff } })} />
        </Box>
      )}
    </Box>
  );
}
