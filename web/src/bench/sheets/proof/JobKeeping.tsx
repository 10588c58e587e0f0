import { useState } from 'react';
import { Box, Button, Tooltip } from '@mui/material';
import type { Job } from '../../../api/client';

interface Props {
  job: Job;
  onKeep: (kept: boolean) => void;
  onDelete: () => void;
}

/** Whether what a job made stays when room is needed; taking it away for good is asked for twice. */
export function JobKeeping({ job, onKeep, onDelete }: Props) {
  const [sure, setSure] = useState(false);
  if (sure)
    return (
      <Box sx={{ display: 'flex', gap: 1, mt: 0.25 }}>
        <Button color="error" variant="outlined" onClick={onDelete}>
          Delete for good
        </Button>
        <Button onClick={() => setSure(false)}>Leave it</Button>
      </Box>
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, mt: 0.25 }}>
      {job.state === 'done' && (
        <Tooltip title={job.kept ? 'Let it go when room is needed' : 'Keep it, also when room is needed for new ones'}>
          <Button aria-pressed={job.kept} variant={job.kept ? 'outlined' : 'text'} onClick={() => onKeep(!job.kept)}>
            {job.kept ? 'Kept' : 'Keep'}
          </Button>
        </Tooltip>
      )}
      <Button aria-label={`Delete ${job.title}`} onClick={() => setSure(true)}>
        Delete
      </Button>
    </Box>
  );
}
