import { Box, MenuItem, Select, Typography, type SxProps } from '@mui/material';
import { useManifest } from '../state/derived';
import { ink } from '../theme';

/** What surfaces may be made of, and patinas too. */
export const SURFACES = ['surface', 'finish'];

/** The materials of some kinds, by title. */
export function useMaterials(kinds: string[]) {
  const materials = useManifest().data?.materials ?? {};
  return Object.entries(materials).filter(([, m]) => kinds.includes(m.kind));
}

/** A choice of material; one that is no longer in the kit is said to be gone until another is chosen. */
export function MaterialSelect({
  label,
  value,
  kinds,
  onChosen,
  sx,
}: {
  label: string;
  value: string;
  kinds: string[];
  onChosen: (id: string) => void;
  sx?: SxProps;
}) {
  const offered = useMaterials(kinds);
  const info = useManifest().data?.materials[value];
  const imported = info?.kind === 'imported';
  return (
    <Box sx={{ minWidth: 0, fontSize: 13, ...sx } as SxProps}>
      <Select
        variant="standard"
        fullWidth
        value={value}
        onChange={(e) => onChosen(e.target.value)}
        inputProps={{ 'aria-label': label }}
        sx={{ fontSize: 'inherit' }}
      >
        {!offered.some(([id]) => id === value) && (
          <MenuItem value={value} disabled={!imported}>
            {imported ? 'as brought in' : (info?.title ?? value)}
          </MenuItem>
        )}
        {offered.map(([id, m]) => (
          <MenuItem key={id} value={id}>
            {m.title}
          </MenuItem>
        ))}
      </Select>
      {info?.kind === 'gone' && (
        <Typography role="alert" sx={{ fontSize: 12, color: ink.brick }}>
          Drawn in plain grey: it is no longer in the kit. Choose another one.
        </Typography>
      )}
    </Box>
  );
}
