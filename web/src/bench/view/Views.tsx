import { Box, ButtonBase, Menu, MenuItem, Tooltip } from '@mui/material';
import { useBenchParts } from '../../state/bench';
import { ink } from '../../theme';
import { modes, type View } from '../../plate/views';
import { useDropMenu } from '../../ui/dropMenu';

const names = Object.keys(modes) as View[];
const plain = names.filter((name) => !modes[name].channel);
const channels = names.filter((name) => modes[name].channel);

const tab = (chosen: boolean) => ({
  px: 0.75,
  py: 0.4,
  fontSize: 12,
  bgcolor: chosen ? ink.ink : 'transparent',
  color: chosen ? '#fff' : ink.ink,
});

/** Which way of seeing the site is shown. */
export function Views() {
  const { view, set } = useBenchParts('view', 'set');
  const { open, close, menu } = useDropMenu();
  const channel = channels.includes(view);
  return (
    <Box
      sx={{
        position: 'absolute',
        top: 10,
        right: 10,
        display: 'flex',
        bgcolor: ink.panel,
        border: `1px solid ${ink.line}`,
      }}
    >
      <Box role="radiogroup" aria-label="View" sx={{ display: 'flex' }}>
        {plain.map((name) => (
          <Tooltip key={name} title={modes[name].help}>
            <ButtonBase
              role="radio"
              aria-checked={view === name}
              onClick={() => set({ view: name })}
              sx={tab(view === name)}
            >
              {modes[name].label}
            </ButtonBase>
          </Tooltip>
        ))}
      </Box>
      <Tooltip title="What surfaces are made of, one channel at a time">
        <ButtonBase aria-haspopup="menu" aria-label="Channel" onClick={open} sx={tab(channel)}>
          {channel ? modes[view].label : 'channel'} ▾
        </ButtonBase>
      </Tooltip>
      <Menu {...menu}>
        {channels.map((name) => (
          <MenuItem
            key={name}
            dense
            selected={view === name}
            onClick={() => {
              set({ view: name });
              close();
            }}
          >
            {modes[name].help}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}
