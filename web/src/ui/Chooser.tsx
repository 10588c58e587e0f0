import { Box, Button, Checkbox, Menu, MenuItem } from '@mui/material';
import { useDropMenu } from './dropMenu';

interface Props {
  options: { id: string; title: string }[];
  chosen: string[];
  /** What it means that nothing is chosen. */
  none: string;
  onChange: (ids: string[]) => void;
}

/** Several of a list, ticked in a menu. */
export function Chooser({ options, chosen, none, onChange }: Props) {
  const { open, menu } = useDropMenu();
  const names = options.filter((o) => chosen.includes(o.id)).map((o) => o.title);
  return (
    <Box>
      <Button onClick={open} sx={{ textAlign: 'left' }}>
        {names.length ? names.join(', ') : none}
      </Button>
      <Menu {...menu}>
        {options.map((o) => (
          <MenuItem
            key={o.id}
            dense
            role="menuitemcheckbox"
            aria-checked={chosen.includes(o.id)}
            onClick={() => onChange(chosen.includes(o.id) ? chosen.filter((c) => c !== o.id) : [...chosen, o.id])}
          >
            <Checkbox size="small" checked={chosen.includes(o.id)} tabIndex={-1} sx={{ p: 0, mr: 1 }} />
            {o.title}
          </MenuItem>
        ))}
        {options.length === 0 && <MenuItem disabled>There is none on this site yet</MenuItem>}
      </Menu>
    </Box>
  );
}
