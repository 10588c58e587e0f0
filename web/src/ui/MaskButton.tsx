import { Button } from '@mui/material';
import { useBenchParts } from '../state/bench';

/** Shows the mask of the selected item alone, or of a part of it. */
export function MaskButton({ of = null }: { of?: string | null }) {
  const { view, maskOf, set } = useBenchParts('view', 'maskOf', 'set');
  const on = view === 'mask' && maskOf === of;
  return (
    <Button
      sx={{ mb: 1 }}
      variant={on ? 'contained' : 'outlined'}
      aria-pressed={on}
      onClick={() => set(on ? { view: 'lit', maskOf: null } : { view: 'mask', maskOf: of })}
    >
      Mask alone
    </Button>
  );
}
