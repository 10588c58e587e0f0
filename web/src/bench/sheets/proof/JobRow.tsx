import { Box, Button, LinearProgress, Tooltip, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { api, sentence, type Job } from '../../../api/client';
import { useSite } from '../../../state/site';
import { figure, ink, mono } from '../../../theme';
import { JobKeeping } from './JobKeeping';
import { isBusy, pictureOf, timeLeft } from './job';

const small = { fontFamily: mono, fontSize: 11 } as const;

/** One proof or hand-over: how far it is, what there is to see of it, what can be done with it. */
export function JobRow({ job, onShow }: { job: Job; onShow: () => void }) {
  const files = Object.entries((job.result.files ?? {}) as Record<string, number>);
  const queries = useQueryClient();
  const say = useSite((s) => s.say);
  const path = { params: { path: { job_id: job.id } } };
  const tell = async (asked: Promise<{ error?: unknown }>) => {
    try {
      const { error } = await asked;
      if (error) say(sentence(error));
    } catch (error) {
      say(sentence(error));
    }
    await queries.invalidateQueries({ queryKey: ['jobs'] });
  };
  const busy = isBusy(job);
  const picture = pictureOf(job);
  const leftOut = (job.result.left_out ?? []) as { item: string; name: string; reason: string }[];
  return (
    <Box data-job={job.state} sx={{ borderBottom: `1px solid ${ink.line}`, py: 0.75 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline' }}>
        <Typography sx={{ flex: 1, fontSize: 12.5 }}>{job.title}</Typography>
        <Typography sx={{ ...small, color: job.state === 'failed' ? 'error.main' : 'text.secondary' }}>
          {job.state === 'done' && job.result.seconds ? `${figure(job.result.seconds as number, 0)} s` : job.state}
        </Typography>
      </Box>
      {busy && (
        <>
          <LinearProgress variant="determinate" value={job.share * 100} aria-label={`Progress of ${job.title}`} />
          <Typography sx={{ fontSize: 11.5, mt: 0.25 }}>
            {job.stage || 'waiting for its turn'}
            {job.left !== null && ` · ${timeLeft(job.left)}`}
          </Typography>
        </>
      )}
      {job.message && <Typography sx={{ fontSize: 12, color: 'error.main' }}>{job.message}</Typography>}
      {leftOut.map(({ item, name, reason }) => (
        <Typography key={item} sx={{ fontSize: 12, color: 'warning.main' }}>
          Without ‘{name}’: {reason}
        </Typography>
      ))}
      {picture && (
        <Box
          component="button"
          onClick={onShow}
          aria-label={`Show ${job.title}`}
          sx={{
            p: 0,
            mt: 0.5,
            border: `1px solid ${ink.line}`,
            background: 'none',
            cursor: 'pointer',
            display: 'block',
            width: '100%',
          }}
        >
          <img src={picture} alt={job.title} style={{ width: '100%', display: 'block' }} />
        </Box>
      )}
      {busy && (
        <Box sx={{ display: 'flex', gap: 1, mt: 0.5 }}>
          {job.pictures > 0 && (
            <Tooltip title="End here: take the picture as it is now">
              <Button
                variant="outlined"
                disabled={job.enough}
                onClick={() => tell(api.POST('/api/work/{job_id}/enough', path))}
              >
                {job.enough ? 'Ending…' : 'Good enough'}
              </Button>
            </Tooltip>
          )}
          <Button onClick={() => tell(api.POST('/api/work/{job_id}/cancel', path))}>Cancel</Button>
        </Box>
      )}
      {job.state === 'done' && job.kind === 'proof' && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 0.25 }}>
          <Typography sx={{ ...small, flex: 1, color: 'text.secondary' }}>
            {figure(job.result.samples as number, 0)} samples a pixel
            {job.can_go_on && `, noise ${figure(100 * (job.result.noise as number), 1)} %`}
          </Typography>
          {job.can_go_on && (
            <Tooltip title="Trace on from here until half of the noise is left">
              <Button variant="outlined" onClick={() => tell(api.POST('/api/work/{job_id}/go-on', path))}>
                Go on
              </Button>
            </Tooltip>
          )}
        </Box>
      )}
      {files.map(([name, bytes]) => (
        <Typography key={name} sx={small}>
          <a href={`/api/work/${job.id}/files/${name}?made=${job.made}`} download={name}>
            {name}
          </a>{' '}
          {figure(bytes / 1e6, 1)} MB
        </Typography>
      ))}
      {!busy && (
        <JobKeeping
          job={job}
          onKeep={(kept) => tell(api.POST('/api/work/{job_id}/keep', { ...path, body: { kept } }))}
          onDelete={() => tell(api.DELETE('/api/work/{job_id}', path))}
        />
      )}
    </Box>
  );
}
