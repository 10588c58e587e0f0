import { Box, Button, Tooltip } from '@mui/material';
import { atRest, brushing, type Tool, useBenchParts } from '../state/bench';
import { ink } from '../theme';
import { Field } from './Field';

export interface ToolButton {
  tool: Tool;
  label: string;
  help: string;
  /** Takes the tool up in its own way. */
  onTake?: () => void;
}

/** The tools of a step, in the sheet's top row; with a brush in hand, its size and strength. */
export function ToolRow({
  tools,
  depth,
  paintOn = null,
}: {
  tools: ToolButton[];
  depth?: boolean;
  paintOn?: string | null;
}) {
  const { tool, brush, paintOn: now, set } = useBenchParts('tool', 'brush', 'paintOn', 'set');
  const held = (name: Tool) => tool === name && (now === paintOn || !brushing(name));
  const take = ({ tool: name, onTake }: ToolButton) => {
    if (held(name)) set(atRest);
    else if (onTake) onTake();
    else set({ ...atRest, tool: name, paintOn });
  };
  const painting = brushing(tool) && now === paintOn && tools.some((t) => t.tool === tool);
  const part = (field: 'radius' | 'strength' | 'falloff' | 'amount', label: string) => (
    <Field
      model="TouchPlan"
      field={field}
      label={label}
      value={brush[field]}
      onDraft={(v) => set({ brush: { ...brush, [field]: v } })}
      onCommit={(v) => set({ brush: { ...brush, [field]: v } })}
    />
  );
  return (
    <Box sx={{ mb: 1.5 }}>
      <Box
        sx={{ display: 'grid', gridTemplateColumns: `repeat(${Math.min(4, tools.length)}, 1fr)`, pl: '1px', pt: '1px' }}
      >
        {tools.map((entry) => (
          <Tooltip key={entry.label} title={entry.help}>
            <Button
              aria-pressed={held(entry.tool)}
              onClick={() => take(entry)}
              sx={{
                borderRadius: 0,
                border: `1px solid ${ink.line}`,
                ml: '-1px',
                mt: '-1px',
                bgcolor: held(entry.tool) ? ink.water : 'transparent',
                color: held(entry.tool) ? '#fff' : 'inherit',
                '&:hover': { bgcolor: held(entry.tool) ? ink.water : ink.waterPale },
              }}
            >
              {entry.label}
            </Button>
          </Tooltip>
        ))}
      </Box>
      {painting && (
        <Box sx={{ pt: 0.75 }}>
          {part('radius', 'brush radius')}
          {part('strength', 'strength')}
          {part('falloff', 'falloff')}
          {depth && ['raise', 'lower', 'roughen'].includes(tool) && part('amount', 'by')}
        </Box>
      )}
    </Box>
  );
}
