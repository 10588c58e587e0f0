import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { api, once, sentence } from '../../api/client';
import { useBenchParts } from '../../state/bench';
import { useJobs } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { figure, mono, serif } from '../../theme';
import { Field } from '../../ui/Field';
import { Section } from '../../ui/Section';
import { useItem } from '../../ui/useItem';
import { JobRow } from './proof/JobRow';
import { Room } from './proof/Room';
import type { Box4 } from '../../state/bench';
import { proofSizes } from './proof/frame';

export function ProofSheet() {
  const items = useSite((s) => s.items);
  const id = useSite((s) => s.id);
  const say = useSite((s) => s.say);
  const { station, proofSize, frame, framing, set } = useBenchParts('station', 'proofSize', 'frame', 'framing', 'set');
  const stations = itemsOf(items, 'station').sort((a, b) => a.plan.order - b.plan.order);
  const chosen = stations.find((s) => s.key === station) ?? stations[0];
  const jobs = useJobs();
  const queries = useQueryClient();
  const [width, height] = proofSizes[proofSize];

  const ask = async (quality: 'rough' | 'good') => {
    if (!chosen) return;
    try {
      const { error } = await api.POST('/api/work/sites/{site_id}/proofs', {
        params: { path: { site_id: id } },
        headers: once(),
        body: { station: chosen.key, quality, width, height, frame },
      });
      if (error) say(sentence(error));
    } catch (error) {
      say(sentence(error));
    }
    await queries.invalidateQueries({ queryKey: ['jobs'] });
  };

  return (
    <>
      <Typography sx={{ fontFamily: serif, fontSize: 20 }}>Proofs</Typography>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 1 }}>
        Path-traced stills from a station, of the site as it is when you ask. The bench stays usable meanwhile.
      </Typography>
      <Section title="New proof">
        <Box sx={{ display: 'grid', gridTemplateColumns: '70px 1fr', rowGap: 0.5, alignItems: 'center' }}>
          <Typography>from</Typography>
          <Select
            variant="standard"
            value={chosen?.key ?? ''}
            onChange={(e) => set({ station: e.target.value })}
            inputProps={{ 'aria-label': 'Station' }}
            sx={{ fontSize: 13 }}
          >
            {stations.map((s) => (
              <MenuItem key={s.key} value={s.key}>
                {s.plan.name}
              </MenuItem>
            ))}
          </Select>
          <Typography>lens</Typography>
          {chosen ? <Lens key={chosen.key} station={chosen.key} /> : <span />}
          <Typography>size</Typography>
          <Select
            variant="standard"
            value={proofSize}
            onChange={(e) => set({ proofSize: Number(e.target.value) })}
            inputProps={{ 'aria-label': 'Size' }}
            sx={{ fontSize: 13 }}
          >
            {proofSizes.map(([w, h], k) => (
              <MenuItem key={w} value={k}>
                {w} × {h} px
              </MenuItem>
            ))}
          </Select>
          <Typography>part</Typography>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 30 }}>
            <Typography sx={{ flex: 1, fontFamily: frame ? mono : undefined, fontSize: frame ? 11.5 : 13 }}>
              {frame ? pixelsOf(frame, width, height) : 'all of it'}
            </Typography>
            {frame && <Button onClick={() => set({ frame: null, framing: false })}>All of it</Button>}
            <Button
              variant={framing ? 'contained' : 'outlined'}
              aria-pressed={framing}
              disabled={!chosen}
              onClick={() => set({ framing: !framing })}
            >
              {framing ? 'Drag in the plate' : frame ? 'Anew' : 'Draw a frame'}
            </Button>
          </Box>
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          <Button variant="contained" disabled={!chosen} onClick={() => ask('rough')}>
            Rough, in seconds
          </Button>
          <Button variant="outlined" disabled={!chosen} onClick={() => ask('good')}>
            Good, in minutes
          </Button>
        </Box>
      </Section>
      <Section title="Made" remark={`${jobs.length}`}>
        {jobs.length === 0 && <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>Nothing yet.</Typography>}
        {jobs.length > 0 && <Room />}
        {jobs.map((job) => (
          <JobRow key={job.id} job={job} onShow={() => set({ proof: job.id })} />
        ))}
      </Section>
    </>
  );
}

/** The lens of a station; the plate looks through it while it is changed. */
function Lens({ station }: { station: string }) {
  const { plan, change, keep } = useItem(station, 'station');
  if (!plan) return null;
  return (
    <Field
      model="StationPlan"
      field="lens"
      label="focal length"
      value={plan.lens}
      onDraft={(lens) => change({ ...plan, lens })}
      onCommit={(lens) => keep(`lens of ${plan.name}`, { ...plan, lens })}
    />
  );
}

const pixelsOf = ([left, top, right, bottom]: Box4, width: number, height: number) =>
  `${figure(Math.round((right - left) * width))} × ${figure(Math.round((bottom - top) * height))} px`;
