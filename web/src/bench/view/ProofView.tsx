import { Box, Button, Typography } from '@mui/material';
import { isBusy, pictureOf, timeLeft } from '../sheets/proof/job';
import { useBenchParts } from '../../state/bench';
import { useJobs } from '../../state/derived';
import { ink } from '../../theme';

/** A proof in the plate's place: the finished one, or one that grows finer while it is looked at. */
export function ProofView() {
  const { proof, set } = useBenchParts('proof', 'set');
  const job = useJobs().find((j) => j.id === proof);
  if (!proof) return null;
  const picture = job && pictureOf(job);
  return (
    <Box sx={{ position: 'absolute', inset: 0, bgcolor: ink.grey, display: 'grid', placeItems: 'center', zIndex: 5 }}>
      {picture ? (
        <img src={picture} alt="Proof" style={{ maxWidth: '100%', maxHeight: '100%' }} />
      ) : (
        <Typography sx={{ color: '#fff' }}>
          {job ? job.message || 'There is nothing to see of it yet.' : 'This proof is no longer in the list.'}
        </Typography>
      )}
      {job && isBusy(job) && (
        <Typography
          role="status"
          sx={{
            position: 'absolute',
            left: 10,
            bottom: 10,
            bgcolor: ink.panel,
            border: `1px solid ${ink.line}`,
            px: 1,
            py: 0.25,
            fontSize: 12,
          }}
        >
          {job.stage || 'waiting for its turn'}
          {job.left !== null && ` · ${timeLeft(job.left)}`}
        </Typography>
      )}
      <Button
        variant="contained"
        onClick={() => set({ proof: null })}
        sx={{ position: 'absolute', top: 10, right: 10 }}
      >
        Back to the plate
      </Button>
    </Box>
  );
}
