import { Box, Typography } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { fetchBytes } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { tuftsOf } from '../../api/tufts';
import { useBench } from '../../state/bench';
import { useAssets } from '../../state/derived';
import { useSite } from '../../state/site';
import { ink, mono } from '../../theme';

const WIDE = 300,
  HIGH = 168,
  FOOT = 14,
  LEFT = 34;
/** What the picture of a blade leaves of the colours of its vertices; see core/cenote_core/kit/own.py. */
const BLADE_SHOWS = 0.77;

/** The tufts of a grass side by side, in their colours, beside a scale. */
export function Portrait({ itemKey, length }: { itemKey: string; length: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const saved = useSaved(itemKey);
  const draft = useBench((s) => (s.tufts?.item === itemKey ? s.tufts.levels : null));
  const dragged = useSite((s) => Boolean(s.drafts[itemKey]));
  const tufts = (dragged ? draft : null) ?? saved;
  const step = length > 1.2 ? 0.5 : length > 0.5 ? 0.2 : length > 0.2 ? 0.1 : 0.05;
  const tall = Math.max(step, Math.ceil((length * 1.2) / step) * step);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !canvas.current) return;
    canvas.current.width = WIDE * 2;
    canvas.current.height = HIGH * 2;
    context.scale(2, 2);
    const scale = (HIGH - FOOT - 8) / tall;
    drawScale(context, tall, step, scale);
    tufts?.forEach((packet, n) => drawTuft(context, packet, LEFT + ((WIDE - LEFT) * (n + 0.5)) / tufts.length, scale));
  }, [tufts, tall, step]);
  return (
    <Box sx={{ mb: 1, border: `1px solid ${ink.line}`, bgcolor: '#E4E6E1' }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label="The three tufts of this grass"
        style={{ width: '100%', aspectRatio: `${WIDE} / ${HIGH}`, display: 'block' }}
      />
      <Typography sx={{ fontFamily: mono, fontSize: 10, color: 'text.secondary', px: 0.75, pb: 0.25 }}>
        its three tufts, {Math.round(length * 100)} cm blades
      </Typography>
    </Box>
  );
}

/** The finest meshes of the grass as it is saved. */
function useSaved(itemKey: string): Packet[] | null {
  const assets = useAssets();
  const urls = tuftsOf(itemKey)
    .map((id) => assets.find((a) => a.id === id)?.lods[0])
    .join(' ');
  const [levels, setLevels] = useState<Packet[] | null>(null);
  useEffect(() => {
    let stale = false;
    const wanted = urls.split(' ').filter((url) => url.startsWith('/'));
    void Promise.all(wanted.map(async (url) => unpack(await fetchBytes(url))))
      .then((packets) => !stale && packets.length > 0 && setLevels(packets))
      .catch(() => undefined);
    return () => {
      stale = true;
    };
  }, [urls]);
  return levels;
}

function drawScale(context: CanvasRenderingContext2D, tall: number, step: number, scale: number) {
  const ground = HIGH - FOOT;
  context.strokeStyle = context.fillStyle = ink.soft;
  context.lineWidth = 0.75;
  context.font = `9px ${mono}`;
  context.textAlign = 'right';
  context.beginPath();
  context.moveTo(LEFT - 8, ground);
  context.lineTo(WIDE - 6, ground);
  for (let y = 0; y <= tall + 1e-9; y += step) {
    context.moveTo(LEFT - 8, ground - y * scale);
    context.lineTo(LEFT - 4, ground - y * scale);
    context.fillText(`${Math.round(y * 100)}`, LEFT - 11, ground - y * scale + 3);
  }
  context.stroke();
  context.fillText('cm', LEFT - 11, HIGH - 2);
}

const shown = (linear: number) => Math.round(255 * Math.min(1, Math.max(0, linear * BLADE_SHOWS)) ** (1 / 2.2));

function drawTuft(context: CanvasRenderingContext2D, { arrays }: Packet, middle: number, scale: number) {
  const { position, color, index } = arrays;
  const depth = (k: number) =>
    position[index[k] * 3 + 2] + position[index[k + 1] * 3 + 2] + position[index[k + 2] * 3 + 2];
  const order = Array.from({ length: index.length / 3 }, (_, f) => f * 3).sort((a, b) => depth(a) - depth(b));
  const ground = HIGH - FOOT;
  context.lineWidth = 0.4;
  for (const k of order) {
    const part = (channel: number) =>
      shown(
        (color[index[k] * 4 + channel] + color[index[k + 1] * 4 + channel] + color[index[k + 2] * 4 + channel]) / 3,
      );
    context.fillStyle = context.strokeStyle = `rgb(${part(0)} ${part(1)} ${part(2)})`;
    context.beginPath();
    for (let c = 0; c < 3; c++)
      context.lineTo(middle + position[index[k + c] * 3] * scale, ground - position[index[k + c] * 3 + 1] * scale);
    context.closePath();
    context.fill();
    context.stroke();
  }
}
