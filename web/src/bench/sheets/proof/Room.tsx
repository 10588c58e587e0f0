import { Typography } from '@mui/material';
import { useRoom } from '../../../state/derived';
import { figure } from '../../../theme';

const gigabytes = (bytes: number) => figure(bytes / 1e9, 2);

/** How much room the site's proofs and hand-overs take, and what happens when there is no more. */
export function Room() {
  const room = useRoom();
  if (!room) return null;
  return (
    <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
      {gigabytes(room.held)} of {gigabytes(room.most)} GB. When it is full the oldest go; what you keep stays.
    </Typography>
  );
}
