import { Box, Button, Typography } from '@mui/material';
import { sentence } from '../api/client';

interface Props {
  error: unknown;
  again?: () => void;
}

/** Something is asked for and does not come: why, and that it is asked for again. */
export function Unreached({ error, again = () => window.location.reload() }: Props) {
  return (
    <Box role="alert" sx={{ p: 4 }}>
      <Typography sx={{ mb: 1 }}>{sentence(error)} It is asked for again by itself.</Typography>
      <Button variant="outlined" onClick={again}>
        Try again
      </Button>
    </Box>
  );
}
