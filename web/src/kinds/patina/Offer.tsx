import { Typography } from '@mui/material';
import { serif } from '../../theme';

/** What there is to do before a patina is chosen. */
export function Offer() {
  return (
    <Typography color="text.secondary" sx={{ fontStyle: 'italic', fontFamily: serif, fontSize: 15 }}>
      Choose a patina at the left, or add one: a patina is one weathering, shared by any number of surfaces.
    </Typography>
  );
}
