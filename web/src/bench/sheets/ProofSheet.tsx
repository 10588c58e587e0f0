import { Box, Button, LinearProgress, MenuItem, Select, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, sentence, type Job } from '../../api/client';
import { useBenchParts } from '../../state/bench';
import { useJobs } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { figure, ink, mono, serif } from '../../theme';
import { Section } from '../controls/Section';

/** Pixels, smallest first. */
const sizes = [[640, 400], [1280, 800], [1920, 1200], [2560, 1600]];

export function ProofSheet() {
  const items = useSite((s) => s.items);
  const id = useSite((s) => s.id);
  const say = useSite((s) => s.say);
  const { station, set } = useBenchParts('station', 'set');
  const stations = itemsOf(items, 'station').sort((a, b) => a.plan.order - b.plan.order);
  const chosen = stations.find((s) => s.key === station) ?? stations[0];
  const [size, setSize] = useState(1);
  const jobs = useJobs();
  const queries = useQueryClient();

  const ask = async (quality: 'rough' | 'good') => {
    if (!chosen) return;
    const [width, height] = sizes[size];
    try {
      const { error } = await api.POST('/api/work/sites/{site_id}/proofs', { params: { path: { site_id: id } }, body: { station: chosen.key, quality, width, height } });
      if (error) say(sentence(error));
    } catch (error) {
      say(sentence(error));
    }
    await queries.invalidateQueries({ queryKey: ['jobs'] });
  };
  const cancel = async (job: Job) => {
    await api.POST('/api/work/{job_id}/cancel', { params: { path: { job_id: job.id } } });
    await queries.invalidateQueries({ queryKey: ['jobs'] });
  };

  return (
    <>
      <Typography sx={{ fontFamily: serif, fontSize: 20 }}>Proofs</Typography>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 1 }}>Path-traced stills from a station. The bench stays usable meanwhile.</Typography>
      <Section title="New proof">
        <Box sx={{ display: 'grid', gridTemplateColumns: '70px 1fr', rowGap: 0.5, alignItems: 'center' }}>
          <Typography>from</Typography>
          <Select variant="standard" value={chosen?.key ?? ''} onChange={(e) => set({ station: e.target.value })} inputProps={{ 'aria-label': 'Station' }} sx={{ fontSize: 13 }}>
            {stations.map((s) => <MenuItem key={s.key} value={s.key}>{s.plan.name}</MenuItem>)}
          </Select>
          <Typography>size</Typography>
          <Select variant="standard" value={size} onChange={(e) => setSize(Number(e.target.value))} inputProps={{ 'aria-label': 'Size' }} sx={{ fontSize: 13 }}>
            {sizes.map(([w, h], k) => <MenuItem key={w} value={k}>{w} × {h} px</MenuItem>)}
          </Select>
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          <Button variant="contained" disabled={!chosen} onClick={() => ask('rough')}>Rough, in seconds</Button>
          <Button variant="outlined" disabled={!chosen} onClick={() => ask('good')}>Good, in minutes</Button>
        </Box>
      </Section>
      <Section title="Made" remark={`${jobs.length}`}>
        {jobs.length === 0 && <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>Nothing yet.</Typography>}
        {jobs.map((job) => <JobRow key={job.id} job={job} onCancel={() => cancel(job)} onShow={() => set({ proof: job.id })} />)}
      </Section>
    </>
  );
}

function JobRow({ job, onCancel, onShow }: { job: Job; onCancel: () => void; onShow: () => void }) {
  const files = Object.entries((job.result.files ?? {}) as Record<string, number>);
  const busy = job.state === 'running' || job.state === 'waiting';
  return (
    <Box data-job={job.state} sx={{ borderBottom: `1px solid ${ink.line}`, py: 0.75 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline' }}>
        <Typography sx={{ flex: 1, fontSize: 12.5 }}>{job.title}</Typography>
        <Typography sx={{ fontFamily: mono, fontSize: 11, color: job.state === 'failed' ? 'error.main' : 'text.secondary' }}>{job.state === 'done' && job.result.seconds ? `${job.result.seconds as number} s` : job.state}</Typography>
      </Box>
      {busy && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <LinearProgress variant="determinate" value={job.share * 100} aria-label={`Progress of ${job.title}`} sx={{ flex: 1 }} />
          <Typography sx={{ fontSize: 11, minWidth: 90 }}>{job.stage || 'waiting'}</Typography>
          <Button onClick={onCancel}>Cancel</Button>
        </Box>
      )}
      {job.message && <Typography sx={{ fontSize: 12, color: 'error.main' }}>{job.message}</Typography>}
      {job.state === 'done' && job.kind === 'proof' && (
        <Box component="button" onClick={onShow} aria-label={`Show ${job.title}`} sx={{ p: 0, border: `1px solid ${ink.line}`, background: 'none', cursor: 'pointer', display: 'block', width: '100%' }}>
          <img src={`/api/work/${job.id}/files/picture.png`} alt={job.title} style={{ width: '100%', display: 'block' }} />
        </Box>
      )}
      {files.map(([name, bytes]) => (
        <Typography key={name} sx={{ fontFamily: mono, fontSize: 11 }}>
          <a href={`/api/work/${job.id}/files/${name}`} download={name}>{name}</a> {figure(bytes / 1e6, 1)} MB
        </Typography>
      ))}
    </Box>
  );
}
