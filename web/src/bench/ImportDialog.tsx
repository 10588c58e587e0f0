import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  LinearProgress,
  MenuItem,
  Select,
  TextField,
  Typography,
} from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { fetchBytes, sentence, writeHeaders, type Schemas } from '../api/client';
import { unpack } from '../api/packet';
import { api } from '../api/client';
import { useBench } from '../state/bench';
import { fillSilhouette } from '../ui/silhouette';
import { useSite } from '../state/site';
import { figure, ink, mono, serif } from '../theme';

const limit = 200e6;

/** Bring in a model: shows its real size beside a person and lets scale and axis be settled. */
export function ImportDialog({ file, onClose }: { file: File | null; onClose: () => void }) {
  const site = useSite((s) => s.id);
  const set = useBench((s) => s.set);
  const select = useSite((s) => s.select);
  const queries = useQueryClient();
  const [found, setFound] = useState<Schemas['ImportOut'] | null>(null);
  const [trouble, setTrouble] = useState('');
  const [stage, setStage] = useState('');
  const [title, setTitle] = useState('');
  const [scale, setScale] = useState('1');
  const [up, setUp] = useState<'y' | 'z'>('y');

  useEffect(() => {
    if (!file) return;
    setFound(null);
    setTrouble('');
    setStage('');
    if (file.size > limit)
      return setTrouble(
        `The file has ${figure(file.size / 1e6)} MB; at most ${figure(limit / 1e6)} MB are taken. Reduce it first.`,
      );
    if (file.size === 0) return setTrouble('The file is empty. Export it again.');
    const body = new FormData();
    body.append('file', file);
    const stop = new AbortController();
    const token = crypto.randomUUID();
    const asking = window.setInterval(
      () =>
        void api
          .GET('/api/kit/imports/progress/{token}', { params: { path: { token } }, signal: stop.signal })
          .then(({ data }) => setStage(data?.stage ?? ''))
          .catch(() => undefined),
      400,
    );
    fetch(`/api/kit/imports?site=${site}&token=${token}`, {
      method: 'POST',
      body,
      headers: writeHeaders(),
      signal: stop.signal,
    })
      .then(async (answer) => {
        const data = await answer.json();
        if (!answer.ok) throw data;
        setFound(data);
        setTitle(data.title);
        setScale(String(data.scale));
        setUp(data.up);
      })
      .catch((error) => error?.name !== 'AbortError' && setTrouble(sentence(error)))
      .finally(() => window.clearInterval(asking));
    return () => {
      window.clearInterval(asking);
      stop.abort();
    };
  }, [file, site]);

  const factor = Number(scale.replace(',', '.'));
  const valid = Number.isFinite(factor) && factor >= 1e-6 && factor <= 1e6 && title.trim() !== '';
  const size = found
    ? (up === 'z' ? [found.size[0], found.size[2], found.size[1]] : found.size).map((s) => s * (valid ? factor : 1))
    : [0, 0, 0];

  const settle = async () => {
    if (!found) return;
    const { data, error } = await api.POST('/api/kit/imports/{import_id}/settle', {
      params: { path: { import_id: found.id } },
      body: { title: title.trim(), scale: factor, up },
    });
    if (!data) return setTrouble(sentence(error));
    await queries.invalidateQueries({ queryKey: ['assets'] });
    select(null);
    set({ step: 'Pieces', armed: [{ id: data.id, title: data.title }], tool: 'place', sheetOpen: true });
    onClose();
  };

  return (
    <Dialog open={Boolean(file)} onClose={onClose} maxWidth="md" aria-labelledby="import-title">
      <DialogContent sx={{ width: 720 }}>
        <Typography id="import-title" sx={{ fontFamily: serif, fontSize: 22 }}>
          Bring in {file?.name}
        </Typography>
        {trouble && (
          <Typography role="alert" color="error" sx={{ my: 2 }}>
            {trouble}
          </Typography>
        )}
        {!trouble && !found && (
          <Box role="status" sx={{ my: 2 }}>
            <Typography sx={{ mb: 1 }}>{stage ? `The file is there: ${stage}…` : 'Sending the file…'}</Typography>
            <LinearProgress aria-label="Reading the file" />
          </Box>
        )}
        {found && (
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 250px', gap: 3, mt: 1 }}>
            <Sized url={found.mesh} size={size} up={up} factor={valid ? factor : 1} />
            <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
              <TextField
                size="small"
                label="Name"
                value={title}
                onChange={(e) => setTitle(e.target.value.slice(0, 80))}
              />
              <TextField
                size="small"
                label="Metres for one unit of the file"
                value={scale}
                onChange={(e) => setScale(e.target.value)}
                error={!valid}
              />
              <Select
                size="small"
                value={up}
                onChange={(e) => setUp(e.target.value as 'y' | 'z')}
                inputProps={{ 'aria-label': 'Upright axis of the file' }}
              >
                <MenuItem value="y">y is up in the file</MenuItem>
                <MenuItem value="z">z is up in the file</MenuItem>
              </Select>
              <Typography sx={{ fontFamily: serif, fontStyle: 'italic' }}>{found.reason}</Typography>
              <Typography data-size sx={{ fontFamily: mono, fontSize: 13 }}>
                {size.map((s) => Number(s.toPrecision(3))).join(' × ')} m
              </Typography>
              <Typography sx={{ fontSize: 12 }}>
                {figure(found.triangles)} triangles, {found.parts} part{found.parts === 1 ? '' : 's'},{' '}
                {found.materials.length} material{found.materials.length === 1 ? '' : 's'}:{' '}
                {found.materials.slice(0, 6).join(', ')}
              </Typography>
              {found.warnings.map((w) => (
                <Typography key={w} sx={{ fontSize: 12, color: 'warning.main' }}>
                  {w}
                </Typography>
              ))}
            </Box>
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={!found || !valid} onClick={settle}>
          Put it into the kit and place it
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** Side view of the model beside a person of 1.75 m, with metre marks. */
function Sized({ url, size, up, factor }: { url: string; size: number[]; up: 'y' | 'z'; factor: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [mesh, setMesh] = useState<{ position: Float32Array; index: Uint32Array } | null>(null);
  useEffect(() => {
    fetchBytes(url)
      .then((data) => {
        const { arrays } = unpack(data);
        setMesh({ position: arrays.position as Float32Array, index: arrays.index as Uint32Array });
      })
      .catch(() => undefined);
  }, [url]);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !mesh) return;
    const W = 800,
      H = 640,
      foot = 590;
    const span = Math.max(size[1] * 1.15, (size[0] + 1.2) * 0.8, 2.1);
    const scale = (H - 90) / span;
    context.clearRect(0, 0, W, H);
    context.font = '20px "IBM Plex Mono"';
    const step = 10 ** Math.floor(Math.log10(span)) / (span / 10 ** Math.floor(Math.log10(span)) < 3 ? 2 : 1);
    for (let y = 0; y <= span; y += step) {
      context.strokeStyle = ink.line;
      context.beginPath();
      context.moveTo(60, foot - y * scale);
      context.lineTo(W, foot - y * scale);
      context.stroke();
      context.fillStyle = ink.soft;
      context.fillText(`${Number(y.toPrecision(3))} m`, 0, foot - y * scale + 6);
    }
    context.fillStyle = ink.ochre;
    const person = 1.75 * scale,
      x0 = 110;
    context.beginPath();
    context.ellipse(x0, foot - person * 0.93, person * 0.05, person * 0.07, 0, 0, 7);
    context.roundRect(x0 - person * 0.11, foot - person * 0.85, person * 0.22, person * 0.42, person * 0.06);
    context.roundRect(x0 - person * 0.09, foot - person * 0.5, person * 0.075, person * 0.5, person * 0.02);
    context.roundRect(x0 + person * 0.015, foot - person * 0.5, person * 0.075, person * 0.5, person * 0.02);
    context.fill();
    const { position, index } = mesh;
    let lowX = Infinity,
      lowY = Infinity;
    const height = (v: number) => (up === 'z' ? position[v + 2] : position[v + 1]) * factor;
    for (let v = 0; v < position.length; v += 3) {
      lowX = Math.min(lowX, position[v] * factor);
      lowY = Math.min(lowY, height(v));
    }
    context.fillStyle = 'rgba(32,38,43,.75)';
    const stride = Math.max(1, Math.floor(index.length / 3 / 60000));
    fillSilhouette(
      context,
      index,
      (v) => 190 + (position[v * 3] * factor - lowX) * scale,
      (v) => foot - (height(v * 3) - lowY) * scale,
      stride,
    );
  }, [mesh, size, up, factor]);
  return (
    <canvas
      ref={canvas}
      width={800}
      height={640}
      aria-label="The model beside a person 1.75 m tall"
      style={{ width: '100%', border: `1px solid ${ink.line}`, background: ink.panel }}
    />
  );
}
